"""Tend."""
