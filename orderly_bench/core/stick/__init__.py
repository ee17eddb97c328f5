"""Rules of the chapter *Stick*."""
