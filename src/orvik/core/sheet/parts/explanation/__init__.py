"""Explanations: their rows, and how these are laid out."""
