"""Sentences and working: what was judged, in words."""
