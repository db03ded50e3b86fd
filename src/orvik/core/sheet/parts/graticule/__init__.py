"""Graticules, their lines and the systems that they draw."""
