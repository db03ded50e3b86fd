"""Panels: ground that is shown on a page, the map in it, and how true its scale is."""
