"""What the checks find about lines: their ends, crossings, doubles and ornaments."""
