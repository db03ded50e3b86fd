"""Structure: planes over the project's heights, and what they say of the map."""
