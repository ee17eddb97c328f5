"""Stick."""
