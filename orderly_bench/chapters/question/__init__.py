"""Question."""
