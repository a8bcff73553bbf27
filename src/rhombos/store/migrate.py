"""Bring a database to the newest schema with Alembic."""

from pathlib import Path

from alembic import command
from alembic.config import Config


def migrate(url: str) -> None:
    """Run all migrations that this database has not seen."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    command.upgrade(config, "head")
