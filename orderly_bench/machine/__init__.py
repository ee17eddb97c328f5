"""What ``./bench`` does before the application's environment exists: plain Python only."""
