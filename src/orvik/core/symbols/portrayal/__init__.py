"""Portrayal: features and their symbols become ink."""
