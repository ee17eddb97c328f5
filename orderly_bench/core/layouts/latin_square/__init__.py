"""Latin square."""
