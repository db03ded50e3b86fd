"""Features and what belongs to them: attitudes, bands, map units, custom kinds, stations, rules all must pass."""
