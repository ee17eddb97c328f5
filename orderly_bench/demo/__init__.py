"""The demo lab."""
