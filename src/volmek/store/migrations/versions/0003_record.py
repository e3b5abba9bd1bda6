"""The journal, seals and meters; the first two can only be added to.

Revision 0003, after 0002.
"""

import sqlalchemy as sa
from alembic import op

revision: str = "0003"
down_revision: str | None = "0002"
branch_labels: str | None = None
depends_on: str | None = None

APPEND_ONLY = ("journal", "seal")


def upgrade() -> None:
    """Create the tables, and the triggers that keep them as they are."""
    op.create_table(
        "journal",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("starter_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("who", sa.String(80), nullable=False),
        sa.Column("said", sa.DateTime(), nullable=False),
        sa.Column("received", sa.DateTime(), nullable=False),
        sa.Column("seen", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_journal"),
        sa.ForeignKeyConstraint(["starter_id"], ["starter.id"], name="fk_journal_starter_id_starter"),
        sa.UniqueConstraint("starter_id", "key", name="uq_journal_starter_id"),
    )
    op.create_index("ix_journal_starter_id_id", "journal", ["starter_id", "id"])
    op.create_table(
        "seal",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("starter_id", sa.Integer(), nullable=False),
        sa.Column("who", sa.String(80), nullable=False),
        sa.Column("sealed", sa.DateTime(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("design", sa.JSON(), nullable=False),
        sa.Column("journal_id", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_seal"),
        sa.ForeignKeyConstraint(["starter_id"], ["starter.id"], name="fk_seal_starter_id_starter"),
    )
    op.create_index("ix_seal_starter_id", "seal", ["starter_id"])
    op.create_table(
        "meter_setting",
        sa.Column("starter_id", sa.Integer(), nullable=False),
        sa.Column("setting", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("starter_id", name="pk_meter_setting"),
        sa.ForeignKeyConstraint(
            ["starter_id"], ["starter.id"], name="fk_meter_setting_starter_id_starter", ondelete="CASCADE"
        ),
    )
    for table in APPEND_ONLY if op.get_bind().dialect.name == "sqlite" else ():  # elsewhere since 0004
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the {table} is only ever added to'); END"
            )


def downgrade() -> None:
    """Drop them again, with the record they hold."""
    for table in APPEND_ONLY if op.get_bind().dialect.name == "sqlite" else ():
        for verb in ("update", "delete"):
            op.execute(f"DROP TRIGGER {table}_no_{verb}")
    for table in ("meter_setting", "seal", "journal"):
        op.drop_table(table)
