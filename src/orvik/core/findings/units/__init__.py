"""What the column of map units says against itself and against the map."""
