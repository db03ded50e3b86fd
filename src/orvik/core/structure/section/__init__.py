"""Upright cross-sections along lines of the map: what the ground, the map and its readings are in them."""
