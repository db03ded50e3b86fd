"""The publication sheet: pages, parts, and their composition to ink."""
