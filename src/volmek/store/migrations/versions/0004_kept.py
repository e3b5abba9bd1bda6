"""Numbers that are never given out again, a bin for starters, and a chain of digests through every record.

Revision 0004, after 0003.
"""

import json
from bisect import bisect_right
from collections import defaultdict
from datetime import UTC, datetime
from typing import Literal

import sqlalchemy as sa
from alembic import op

from volmek.core.record.chain import Link, link_digest
from volmek.store.guards import guard, unguard

revision: str = "0004"
down_revision: str | None = "0003"
branch_labels: str | None = None
depends_on: str | None = None

NUMBERED = ("job", "board", "revision", "override_note", "catalogue", "catalogue_device", "preset")
ONLY_ADDED = ("journal", "seal", "emptied")
COUNTED = {"sqlite_autoincrement": True}


def upgrade() -> None:
    """Rebuild the tables with counted numbers; entries that are there already begin their chain as one block."""
    sqlite = op.get_bind().dialect.name == "sqlite"
    recreate: Literal["always", "never"] = "always" if sqlite else "never"  # elsewhere numbers are counted already
    for table in NUMBERED if sqlite else ():
        with op.batch_alter_table(table, recreate=recreate, table_kwargs=COUNTED):
            pass
    with op.batch_alter_table("starter", recreate=recreate, table_kwargs=COUNTED) as batch:
        batch.add_column(sa.Column("removed", sa.DateTime(), nullable=True))
        batch.add_column(sa.Column("removed_by", sa.String(80), nullable=False, server_default=""))
        batch.drop_constraint("uq_starter_board_id", type_="unique")
    op.create_index("uq_starter_board_id_tag", "starter", ["board_id", "tag"], unique=True, sqlite_where=sa.text("removed IS NULL"), postgresql_where=sa.text("removed IS NULL"))  # fmt: skip
    for table in ("journal", "seal") if sqlite else ():
        for verb in ("update", "delete"):
            op.execute(f"DROP TRIGGER {table}_no_{verb}")
    with op.batch_alter_table("journal", recreate=recreate, table_kwargs=COUNTED) as batch:
        batch.add_column(sa.Column("tag", sa.String(40), nullable=False, server_default=""))
        batch.add_column(sa.Column("digest", sa.String(64), nullable=False, server_default=""))
    with op.batch_alter_table("seal", recreate=recreate, table_kwargs=COUNTED) as batch:
        batch.add_column(sa.Column("chain", sa.String(64), nullable=False, server_default=""))
        batch.add_column(sa.Column("key_id", sa.String(16), nullable=False, server_default=""))
        batch.add_column(sa.Column("mac", sa.String(64), nullable=False, server_default=""))
    op.create_table(
        "listed",
        sa.Column("starter_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("cells", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("starter_id", name="pk_listed"),
        sa.ForeignKeyConstraint(
            ["starter_id"], ["starter.id"], name="fk_listed_starter_id_starter", ondelete="CASCADE"
        ),
    )
    op.create_table(
        "emptied",
        sa.Column("starter_id", sa.Integer(), nullable=False),
        sa.Column("tag", sa.String(40), nullable=False),
        sa.Column("board", sa.String(200), nullable=False),
        sa.Column("emptied", sa.DateTime(), nullable=False),
        sa.Column("who", sa.String(80), nullable=False),
        sa.Column("entries", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.PrimaryKeyConstraint("starter_id", name="pk_emptied"),
    )
    if sqlite:
        _chain()
    for statement in guard(op.get_bind().dialect.name, ONLY_ADDED):
        op.execute(statement)


def _chain() -> None:
    """The last entry of each starter gets the digest of all its entries together."""
    connection = op.get_bind()
    rows = connection.execute(
        sa.text("SELECT id, starter_id, key, kind, body, who, said, received, seen FROM journal ORDER BY id")
    )
    ends: dict[int, tuple[int, str]] = defaultdict(lambda: (0, ""))
    before: dict[int, list[int]] = defaultdict(list)
    for id, starter_id, key, kind, body, who, said, received, seen in rows.all():
        known = bisect_right(before[starter_id], seen)
        link = Link(id, "", key, kind, json.loads(body), who, _time(said), _time(received), known)
        ends[starter_id] = (id, link_digest(ends[starter_id][1], link))
        before[starter_id].append(id)
    for id, digest in ends.values():
        connection.execute(sa.text("UPDATE journal SET digest = :digest WHERE id = :id"), {"digest": digest, "id": id})


def _time(kept: str) -> datetime:
    return datetime.fromisoformat(kept).replace(tzinfo=UTC)


def downgrade() -> None:
    """Back to the tables of 0003; starters in the bin are on their boards again where their tag is free."""
    for statement in unguard(op.get_bind().dialect.name, ONLY_ADDED):
        op.execute(statement)
    op.drop_table("emptied")
    op.drop_table("listed")
    with op.batch_alter_table("seal") as batch:
        for column in ("chain", "key_id", "mac"):
            batch.drop_column(column)
    with op.batch_alter_table("journal") as batch:
        batch.drop_column("digest")
        batch.drop_column("tag")
    op.drop_index("uq_starter_board_id_tag", "starter")
    op.execute("UPDATE starter SET tag = tag || '-' || id WHERE removed IS NOT NULL")
    with op.batch_alter_table("starter") as batch:
        batch.drop_column("removed")
        batch.drop_column("removed_by")
        batch.create_unique_constraint("uq_starter_board_id", ["board_id", "tag"])
    for table in ("journal", "seal") if op.get_bind().dialect.name == "sqlite" else ():
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the {table} is only ever added to'); END"
            )
