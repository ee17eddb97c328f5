"""The chapters of the work, one folder each."""
