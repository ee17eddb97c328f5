"""The application as servers look for it."""

import sys

from orderly_bench.app import create_app

#: Seconds after which a thread that works something out lets another go on. A save asks the database ten times, and waits for this each
#: time; at Python's 5 ms who scores beside a reader waits 50 ms for nothing.
TURN_SECONDS = 0.0005

sys.setswitchinterval(TURN_SECONDS)
app = create_app()
