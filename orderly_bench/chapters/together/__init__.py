"""Trials of one question together."""
