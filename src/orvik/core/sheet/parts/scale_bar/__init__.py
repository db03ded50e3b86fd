"""Scale bars, their designs and lengths."""
