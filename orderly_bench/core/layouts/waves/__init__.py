"""Waves that carry a season. Never drawn by itself: other layouts are, inside each wave."""
