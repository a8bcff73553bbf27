"""First tables: projects, revisions, drafts, decisions, facts."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGTEXT

revision = "0001"
down_revision = None
TABLE: dict[str, Any] = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_bin"}


def upgrade() -> None:
    """Make the tables; MariaDB commits each on its own, so a half-made schema is completed by running again."""
    here = set(sa.inspect(op.get_bind()).get_table_names())
    text = sa.Text().with_variant(LONGTEXT(), "mysql")
    if "projects" not in here:
        op.create_table(
            "projects",
            sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
            sa.Column("title", sa.String(200), nullable=False),
            sa.Column("head", sa.Integer, nullable=False),
            sa.Column("created", sa.DateTime, nullable=False),
            sa.Column("touched", sa.DateTime, nullable=False),
            **TABLE,
        )
    if "revisions" not in here:
        op.create_table(
            "revisions",
            sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
            sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=False),
            sa.Column("number", sa.Integer, nullable=False),
            sa.Column("parent", sa.Integer, nullable=False),
            sa.Column("author", sa.String(80), nullable=False),
            sa.Column("message", sa.String(500), nullable=False),
            sa.Column("design", text, nullable=False),
            sa.Column("created", sa.DateTime, nullable=False),
            sa.UniqueConstraint("project_id", "number"),
            **TABLE,
        )
    if "drafts" not in here:
        op.create_table(
            "drafts",
            sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), primary_key=True),
            sa.Column("version", sa.Integer, nullable=False),
            sa.Column("base", sa.Integer, nullable=False),
            sa.Column("design", text, nullable=False),
            sa.Column("saved", sa.DateTime, nullable=False),
            **TABLE,
        )
    if "decisions" not in here:
        op.create_table(
            "decisions",
            sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
            sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=False),
            sa.Column("revision", sa.Integer, nullable=False),
            sa.Column("title", sa.String(200), nullable=False),
            sa.Column("reason", sa.Text, nullable=False),
            sa.Column("numbers", sa.Text, nullable=False),
            sa.Column("author", sa.String(80), nullable=False),
            sa.Column("created", sa.DateTime, nullable=False),
            **TABLE,
        )
    if "facts" not in here:
        op.create_table("facts", sa.Column("name", sa.String(80), primary_key=True), sa.Column("value", sa.String(200), nullable=False), **TABLE)


def downgrade() -> None:
    """Not offered: revisions are append-only."""
    raise NotImplementedError("going back would lose revisions")
