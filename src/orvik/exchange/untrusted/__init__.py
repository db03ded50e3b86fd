"""Strangers' files: opened by a child process that has nothing to lose and nowhere to go."""
