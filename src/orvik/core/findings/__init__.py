"""Findings: what the checks have to say, each with its place on the ground and, where there is one, a fix."""
