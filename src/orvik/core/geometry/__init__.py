"""Geometry: vertices and edges that features share, curves, stretches, following an edge, and snapping."""
