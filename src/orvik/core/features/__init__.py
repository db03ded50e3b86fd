"""Features and what belongs to them: attitudes, bands, map units, own kinds, stations, and the rules all must pass."""
