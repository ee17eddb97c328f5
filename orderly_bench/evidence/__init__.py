"""What Compare, Conclude and the report show of a trial's record: the verdict, other readings, figures, words."""
