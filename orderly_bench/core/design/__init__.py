"""Rules of the chapter *Design*."""
