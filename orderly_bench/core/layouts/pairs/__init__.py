"""Pairs."""
