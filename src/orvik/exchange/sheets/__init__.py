"""Files that sheets use, and returned ones: pictures, drawings, fonts, SVG and PDF."""
