"""The application as servers look for it."""

from orderly_bench.web.app import create_app

app = create_app()
