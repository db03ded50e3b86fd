"""Joins with the neighbouring sheets: what a neighbour shows at a border that both share, and what does not meet."""
