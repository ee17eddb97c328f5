"""``python -m orderly_bench.cli``."""

import sys

from orderly_bench.cli.main import main

sys.exit(main())
