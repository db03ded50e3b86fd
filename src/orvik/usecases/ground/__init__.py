"""The Ground stage: border, underlays, saved views."""
