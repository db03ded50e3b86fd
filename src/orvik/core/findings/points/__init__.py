"""What the checks find about readings and stations."""
