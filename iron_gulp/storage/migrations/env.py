"""Alembic environment: runs on the connection it is given."""

from alembic import context

from iron_gulp.storage.tables import Base

# SQLite changes tables within a transaction, whatever Alembic assumes of it: the caller holds one around all steps.
context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    render_as_batch=True,
    transactional_ddl=True,
)
with context.begin_transaction():
    context.run_migrations()
