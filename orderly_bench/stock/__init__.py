"""What the lab keeps and trials draw on: below the trial, it knows none."""
