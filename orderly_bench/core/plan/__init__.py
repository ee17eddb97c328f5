"""The plan of a trial as one value: what it says, its text, its digest, how two differ, how it is amended."""
