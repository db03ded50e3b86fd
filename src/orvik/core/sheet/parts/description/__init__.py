"""The description of map units: the column as a text, with boxes, that flows through frames."""
