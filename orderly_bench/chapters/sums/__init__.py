"""Sums of the bench, typed and worked out at once; their address can be passed on."""
