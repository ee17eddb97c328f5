"""Orderly Bench: controlled rooting trials, from a question to a verdict that can be trusted."""

__version__ = "0.1.0"
