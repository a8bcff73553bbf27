"""When a project was touched, to the microsecond: of several touched within a second the last stands first.

Revision ID: 0003
Revises: 0002
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Give the column its fractions; what stands there keeps its second."""
    op.alter_column("projects", "touched", existing_type=sa.DateTime(), type_=DATETIME(fsp=6), existing_nullable=False)


def downgrade() -> None:
    """Back to whole seconds."""
    op.alter_column("projects", "touched", existing_type=DATETIME(fsp=6), type_=sa.DateTime(), existing_nullable=False)
