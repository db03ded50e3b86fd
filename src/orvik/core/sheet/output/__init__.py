"""From a sheet to what is printed: composed, trimmed, plotted, exported, and compared when it comes back."""
