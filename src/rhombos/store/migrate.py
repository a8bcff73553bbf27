"""Bring a database to the newest schema with Alembic."""

from pathlib import Path

from sqlalchemy import create_engine, inspect, text

HEAD = "0003"
"""The newest migration; a test compares it with what Alembic finds."""


def migrate(url: str) -> None:
    """Run all migrations that this database has not seen; Alembic is only loaded when there are any."""
    engine = create_engine(url)
    with engine.connect() as connection:
        if inspect(connection).has_table("alembic_version") and connection.scalar(text("SELECT version_num FROM alembic_version")) == HEAD:
            engine.dispose()
            return
    engine.dispose()
    from alembic import command

    command.upgrade(configuration(url), "head")


def configuration(url: str):  # type: ignore[no-untyped-def]  # Alembic is loaded where it is needed
    """Alembic's configuration for a database."""
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config
