"""Rules of the chapter *Prepare*."""
