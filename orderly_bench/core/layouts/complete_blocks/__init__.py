"""Randomised complete blocks."""
