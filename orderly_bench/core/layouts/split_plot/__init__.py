"""Split-plot."""
