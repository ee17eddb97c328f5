"""Blocks in parts that share no arm. Found in what was laid out, never proposed."""
