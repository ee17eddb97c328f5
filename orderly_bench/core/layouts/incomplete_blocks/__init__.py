"""Incomplete blocks."""
