"""Shelf: benches and what stands on them."""
