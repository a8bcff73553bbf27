"""Alembic migrations, in order."""
