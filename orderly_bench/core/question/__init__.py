"""Rules of the chapter *Question*."""
