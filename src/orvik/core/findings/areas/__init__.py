"""What the checks find about unit areas and what lies on both sides of a line."""
