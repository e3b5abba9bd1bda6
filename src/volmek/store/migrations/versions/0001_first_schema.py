"""First schema: job, board, starter, revision, override note.

Revision 0001, after none.
"""

import sqlalchemy as sa
from alembic import op

revision: str = "0001"
down_revision: str | None = None
branch_labels: str | None = None
depends_on: str | None = None


def upgrade() -> None:
    """Create the five tables."""
    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_job"),
        sa.UniqueConstraint("name", name="uq_job_name"),
    )
    op.create_table(
        "board",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("defaults", sa.JSON(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name="fk_board_job_id_job", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_board"),
        sa.UniqueConstraint("job_id", "name", name="uq_board_job_id"),
    )
    op.create_table(
        "starter",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("board_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("tag", sa.String(40), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("saved", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["board_id"], ["board.id"], name="fk_starter_board_id_board", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_starter"),
        sa.UniqueConstraint("board_id", "tag", name="uq_starter_board_id"),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("starter_id", sa.Integer(), nullable=False),
        sa.Column("change", sa.String(200), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("saved", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["starter_id"], ["starter.id"], name="fk_revision_starter_id_starter", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_revision"),
    )
    op.create_index("ix_revision_starter_id_id", "revision", ["starter_id", "id"])
    op.create_table(
        "override_note",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("starter_id", sa.Integer(), nullable=False),
        sa.Column("role", sa.String(40), nullable=False),
        sa.Column("choice", sa.String(200), nullable=False),
        sa.Column("reason", sa.String(300), nullable=False),
        sa.Column("noted", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["starter_id"], ["starter.id"], name="fk_override_note_starter_id_starter", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_override_note"),
    )
    op.create_index("ix_override_note_starter_id", "override_note", ["starter_id"])


def downgrade() -> None:
    """Drop them again."""
    for table in ("override_note", "revision", "starter", "board", "job"):
        op.drop_table(table)
