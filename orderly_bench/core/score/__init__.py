"""Rules of the chapter *Score*."""
