"""Figures: one file each; the same drawing to SVG on the page and to files."""
