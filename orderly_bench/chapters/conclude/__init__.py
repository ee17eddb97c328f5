"""Conclude."""
