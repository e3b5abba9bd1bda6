"""People who sign in, what they changed, and where meters may be read.

Revision 0005, after 0004.
"""

import sqlalchemy as sa
from alembic import op

from volmek.store.guards import guard, unguard

revision: str = "0005"
down_revision: str | None = "0004"
branch_labels: str | None = None
depends_on: str | None = None

COUNTED = {"sqlite_autoincrement": True}


def upgrade() -> None:
    """Create the tables, and columns for who did it."""
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("name_key", sa.String(80), nullable=False),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("password", sa.String(200), nullable=False),
        sa.Column("epoch", sa.Integer(), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_person"),
        sa.UniqueConstraint("name_key", name="uq_person_name_key"),
        **COUNTED,
    )
    op.create_table(
        "sign_in_failure",
        sa.Column("subject", sa.String(140), nullable=False),
        sa.Column("failures", sa.Integer(), nullable=False),
        sa.Column("last", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("subject", name="pk_sign_in_failure"),
    )
    op.create_table(
        "pairing",
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("epoch", sa.Integer(), nullable=False),
        sa.Column("expires", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("digest", name="pk_pairing"),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name="fk_pairing_person_id_person", ondelete="CASCADE"),
    )
    op.create_table(
        "audit",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("who", sa.String(80), nullable=False),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("operation", sa.String(60), nullable=False),
        sa.Column("subject", sa.String(200), nullable=False),
        sa.Column("address", sa.String(64), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_audit"),
        **COUNTED,
    )
    op.create_index("ix_audit_at", "audit", ["at"])
    op.create_table(
        "meter_address",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("host", sa.String(120), nullable=False),
        sa.Column("allowed_by", sa.String(80), nullable=False),
        sa.Column("allowed", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_meter_address"),
        sa.UniqueConstraint("host", name="uq_meter_address_host"),
        **COUNTED,
    )
    op.create_table(
        "work_state",
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("words", sa.String(200), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("of", sa.Integer(), nullable=False),
        sa.Column("stop", sa.Boolean(), nullable=False),
        sa.Column("changed", sa.DateTime(), nullable=False),
        sa.Column("owner", sa.String(80), nullable=False),
        sa.Column("status", sa.Integer(), nullable=True),
        sa.Column("headers", sa.Text(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_work_state"),
    )
    # Added in place, not by rebuilding the tables: their triggers stay as they are.
    op.add_column("starter", sa.Column("changed_by", sa.String(80), nullable=False, server_default=""))
    op.add_column("revision", sa.Column("who", sa.String(80), nullable=False, server_default=""))
    for table in ("journal", "seal"):
        op.add_column(table, sa.Column("signed", sa.Boolean(), nullable=False, server_default=sa.false()))
    for statement in guard(op.get_bind().dialect.name, ["audit"]):
        op.execute(statement)


def downgrade() -> None:
    """Drop them again, with the people."""
    dialect = op.get_bind().dialect.name
    for statement in unguard(dialect, ["audit"]):
        op.execute(statement)
    for statement in unguard(dialect, ["journal", "seal", "emptied"]):
        op.execute(statement)
    for table, column in (("journal", "signed"), ("seal", "signed"), ("revision", "who"), ("starter", "changed_by")):
        with op.batch_alter_table(table) as batch:
            batch.drop_column(column)
    for statement in guard(dialect, ["journal", "seal", "emptied"]):
        op.execute(statement)
    for table in ("work_state", "meter_address", "audit", "pairing", "sign_in_failure", "person"):
        op.drop_table(table)
