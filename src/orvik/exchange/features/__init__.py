"""Features and tables in and out, with what their fields mean."""
