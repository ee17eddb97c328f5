"""Open formats, one per file, reading and writing side by side."""
