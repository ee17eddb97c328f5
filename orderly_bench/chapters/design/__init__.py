"""Design."""
