"""Alembic's environment: one connection handed in by ``orderly_bench.database.migrate``."""

from alembic import context

from orderly_bench.trial.all_models import metadata

connection = context.config.attributes["connection"]
apart = context.config.attributes["apart"]
context.configure(
    connection=connection, target_metadata=metadata, compare_type=True, include_name=lambda name, kind, _: kind != "table" or name not in apart
)  # fmt: skip
with context.begin_transaction():
    context.run_migrations()
