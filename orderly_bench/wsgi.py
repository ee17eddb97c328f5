"""The application as servers look for it."""

import logging
import sys

from orderly_bench.app import create_app
from orderly_bench.database.engine import nodes_of
from orderly_bench.web.gate import AT_ONCE, Places, few_at_once
from orderly_bench.web.sent_again import sent_again

#: Seconds after which a thread that works something out lets another go on. A save asks the database eight times, and waits for this each
#: time; at Python's 5 ms who scores beside a reader waits 40 ms for nothing.
TURN_SECONDS = 0.002

sys.setswitchinterval(TURN_SECONDS)
#: It would tell of every request that waits for a moment.
logging.getLogger("waitress.queue").setLevel(logging.ERROR)
made = create_app()
places = made.extensions["places"] = Places(AT_ONCE)
app = sent_again(few_at_once(made, places), nodes_of(made.extensions["engine"]))
