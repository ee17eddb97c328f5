"""Completely randomised."""
