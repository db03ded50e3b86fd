"""Pictures, scans, heights and tile services as underlays."""
