"""Prepare."""
