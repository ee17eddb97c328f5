"""Score."""
