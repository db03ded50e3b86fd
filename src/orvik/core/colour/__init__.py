"""Colours: as the project holds them, how they are told apart, proposed and typed."""
