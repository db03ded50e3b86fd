"""From a sheet to what is printed: composed, trimmed, plotted, exported, and compared with a returned file."""
