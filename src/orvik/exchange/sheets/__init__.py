"""Files that sheets use or that come back: pictures, drawings, fonts, SVG and PDF."""
