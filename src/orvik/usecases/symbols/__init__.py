"""The Symbols stage: units, colours, drawn and conditional symbols, emphasis, the plate."""
