"""Stick first, ask while it stands: question, design, lock and day 0 in one touch, through the operations of their chapters."""
