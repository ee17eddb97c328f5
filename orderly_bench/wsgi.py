"""The application as servers look for it."""

from orderly_bench.app import create_app

app = create_app()
