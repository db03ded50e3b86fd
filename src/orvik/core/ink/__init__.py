"""Ink: the eight primitives that every painter paints, and what is done to them."""
