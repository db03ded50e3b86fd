"""The commands. Each module has ``arguments``, which says what it takes, and ``run``, which does it."""
