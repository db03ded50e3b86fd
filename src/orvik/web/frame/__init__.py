"""The frame around all stages: templates, scripts and styles that they share."""
