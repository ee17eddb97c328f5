"""Alembic's environment: one connection handed in by ``orderly_bench.database.migrate``."""

from alembic import context

from orderly_bench.trial.all_models import metadata

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=metadata, compare_type=True)
with context.begin_transaction():
    context.run_migrations()
