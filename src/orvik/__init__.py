"""Orvik: compile field sheets, pictures and readings into a published geologic map."""

__version__ = "0.1.0"
