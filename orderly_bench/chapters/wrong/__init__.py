"""What went wrong."""
