"""The Sheet stage: sheets and their parts, panels, labels and explanations."""
