"""Painters: ink to SVG and PDF, and through PDF to PNG. They paint; they decide nothing about the map."""
