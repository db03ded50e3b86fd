"""Tests of what an open project holds."""
