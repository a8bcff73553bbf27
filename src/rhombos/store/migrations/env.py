"""Alembic's environment: connect and run."""

from alembic import context
from sqlalchemy import create_engine

from rhombos.store.models import Base

engine = create_engine(str(context.config.get_main_option("sqlalchemy.url")))
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
