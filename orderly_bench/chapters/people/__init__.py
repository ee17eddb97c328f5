"""People."""
