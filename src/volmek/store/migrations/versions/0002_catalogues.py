"""Catalogues of one's own, the devices that a design keeps, and presets.

Revision 0002, after 0001.
"""

import sqlalchemy as sa
from alembic import op

revision: str = "0002"
down_revision: str | None = "0001"
branch_labels: str | None = None
depends_on: str | None = None


def upgrade() -> None:
    """Create the tables, and a column for each board and starter."""
    op.create_table(
        "catalogue",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("changed", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_catalogue"),
        sa.UniqueConstraint("name", name="uq_catalogue_name"),
    )
    op.create_table(
        "catalogue_device",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("catalogue_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(40), nullable=False),
        sa.Column("type", sa.String(40), nullable=False),
        sa.Column("cells", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["catalogue_id"], ["catalogue.id"], name="fk_catalogue_device_catalogue_id_catalogue", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_catalogue_device"),
        sa.UniqueConstraint("catalogue_id", "type", name="uq_catalogue_device_catalogue_id"),
    )
    op.create_table(
        "preset",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("parts", sa.JSON(), nullable=False),
        sa.Column("saved", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_preset"),
        sa.UniqueConstraint("name", name="uq_preset_name"),
    )
    op.add_column("board", sa.Column("catalogues", sa.String(200), nullable=False, server_default="0"))
    op.add_column("starter", sa.Column("devices", sa.Text(), nullable=False, server_default="{}"))


def downgrade() -> None:
    """Drop them again."""
    with op.batch_alter_table("starter") as batch:
        batch.drop_column("devices")
    with op.batch_alter_table("board") as batch:
        batch.drop_column("catalogues")
    for table in ("preset", "catalogue_device", "catalogue"):
        op.drop_table(table)
