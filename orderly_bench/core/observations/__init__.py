"""Data read and held: the table an analysis works on, which knows no layout."""
