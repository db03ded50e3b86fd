"""Ground: coordinate systems and how they distort, scales, the sheet border, coordinates as people write them."""
