"""Where a project stands: on the shelf, put away, or among the deleted."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Add the column; what was there stands on the shelf. A run that was cut short is completed by running again."""
    here = {column["name"] for column in sa.inspect(op.get_bind()).get_columns("projects")}
    if "standing" not in here:
        op.add_column("projects", sa.Column("standing", sa.String(10), nullable=False, server_default="shelf"))


def downgrade() -> None:
    """Not offered: it would put what was deleted back among the rest."""
    raise NotImplementedError("going back would lose where projects stand")
