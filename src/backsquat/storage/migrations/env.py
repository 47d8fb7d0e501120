"""Alembic's entry: uses the connection that backsquat.storage.migrate hands over."""

from alembic import context

from backsquat.storage.models import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True, transactional_ddl=True)
with context.begin_transaction():
    context.run_migrations()
