"""The live connection: messages of pages and what answers them."""
