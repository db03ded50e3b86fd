"""North arrows, their designs and the three norths."""
