"""Sums that the bench asks for: typed or headless, each with its working."""
