"""The correlation of map units: their boxes against the ages of the chart."""
