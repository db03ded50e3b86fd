"""A project as a whole: made, its scales set, moved into another coordinate system."""
