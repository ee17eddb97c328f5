"""The trial itself: what every chapter shares."""
