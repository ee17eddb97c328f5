"""Rules of the chapter *Conclude*."""
