"""Laying out a page: parts aligned, on free paper, on another paper, as large as there is room."""
