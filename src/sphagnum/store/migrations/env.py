"""Runs migrations on the connection it is handed."""

from alembic import context

from sphagnum.store.models import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata,
                  render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
