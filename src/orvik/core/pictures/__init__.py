"""Pictures: where a scan lies on the ground, and relief from a grid of heights."""
