"""Findings of a sheet: what its page lacks, what lies wrong on it, and what a printer could not show."""
