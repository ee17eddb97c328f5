"""Rules of the chapter *Tend*."""
