"""Rehearse: run a plan many times before it is stuck once, or learn how few cuttings mislead."""
