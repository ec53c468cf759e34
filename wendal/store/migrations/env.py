"""Alembic's environment: always run by Wendal itself, on a connection it hands in."""

from alembic import context

from wendal.store.models import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
