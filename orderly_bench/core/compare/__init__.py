"""Rules of the chapter *Compare*."""
