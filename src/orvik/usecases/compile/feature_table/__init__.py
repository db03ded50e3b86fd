"""Features as a table: its columns and cells, which rows are listed, and what typing, filling and pasting changes."""
