"""Labels: codes, figures and names, at places where they can be read, and where a hand has put them."""
