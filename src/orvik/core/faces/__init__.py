"""Faces: forming units from linework and tags, forming again after an edit, and the survey that keeps up with both."""
