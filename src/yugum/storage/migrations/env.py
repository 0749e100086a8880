"""Alembic's entry: runs on the connection that `storage.database.migrate` hands over."""

from __future__ import annotations

from alembic import context

from yugum.storage.tables import metadata

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=metadata)
with context.begin_transaction():
    context.run_migrations()
