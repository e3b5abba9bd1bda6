"""Triggers that keep tables as they are: rows are added, and neither changed, taken out nor put in another's place."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager

from sqlalchemy import Connection, inspect, text

#: Tables that are only ever added to; an emptied starter alone lets its rows of the first two go.
KEPT_FOR_GOOD = ("journal", "seal", "emptied", "audit")


def own_id(table: str) -> str:
    """Column by which a row is told from the others."""
    return "starter_id" if table == "emptied" else "id"


def guard(dialect: str, tables: Sequence[str] = KEPT_FOR_GOOD) -> list[str]:
    """Statements that put the triggers on."""
    return (_postgresql if dialect == "postgresql" else _sqlite)(tables)


def unguard(dialect: str, tables: Sequence[str] = KEPT_FOR_GOOD) -> list[str]:
    """Statements that take them off again."""
    if dialect == "postgresql":
        names = [(t, f"{t}_no_{v}") for t in tables for v in ("update", "delete", "truncate")]
        names += [("emptied", "emptied_from_the_bin")] if "emptied" in tables else []
        return [f"DROP TRIGGER {name} ON {table}" for table, name in names]
    found = [f"DROP TRIGGER {t}_no_{v}" for t in tables for v in ("update", "delete", "replace")]
    return [*found, *(["DROP TRIGGER emptied_from_the_bin"] if "emptied" in tables else [])]


def _sqlite(tables: Sequence[str]) -> list[str]:
    found = []
    for table in tables:
        refuse = f"BEGIN SELECT RAISE(ABORT, 'the {table} is only ever added to'); END"
        own = own_id(table)
        again = f"EXISTS (SELECT 1 FROM {table} WHERE {own} = NEW.{own})"
        if table == "journal":
            again = f"({again} OR EXISTS (SELECT 1 FROM journal WHERE starter_id = NEW.starter_id AND key = NEW.key))"
        gone = "WHEN NOT EXISTS (SELECT 1 FROM emptied WHERE emptied.starter_id = OLD.starter_id) " if table in ("journal", "seal") else ""  # fmt: skip
        found += [
            f"CREATE TRIGGER {table}_no_update BEFORE UPDATE ON {table} {refuse}",
            f"CREATE TRIGGER {table}_no_delete BEFORE DELETE ON {table} {gone}{refuse}",
            f"CREATE TRIGGER {table}_no_replace BEFORE INSERT ON {table} WHEN {again} {refuse}",
        ]
    if "emptied" in tables:
        found.append(
            "CREATE TRIGGER emptied_from_the_bin BEFORE INSERT ON emptied "
            "WHEN NOT EXISTS (SELECT 1 FROM starter WHERE id = NEW.starter_id AND removed IS NOT NULL) "
            "BEGIN SELECT RAISE(ABORT, 'only a starter in the bin can be emptied'); END"
        )
    return found


def _postgresql(tables: Sequence[str]) -> list[str]:
    """An insert never replaces a row here, and an upsert is an update; instead there is TRUNCATE to be refused."""

    def function(name: str, when: str, words: str) -> str:
        # The arguments of RAISE are the table's name; the state makes it an error of integrity, as in SQLite.
        refuse = f"RAISE EXCEPTION '{words}' USING ERRCODE = 'integrity_constraint_violation';"
        body = f"IF {when} THEN {refuse} END IF;" if when else refuse
        return f"CREATE OR REPLACE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN {body} RETURN COALESCE(NEW, OLD); END $$"

    found = []
    for table in tables:
        words = f"the {table} is only ever added to"
        gone = "NOT EXISTS (SELECT 1 FROM emptied WHERE emptied.starter_id = OLD.starter_id)" if table in ("journal", "seal") else ""  # fmt: skip
        found += [
            function(f"{table}_refused", "", words),
            function(f"{table}_kept", gone, words),
            f"CREATE TRIGGER {table}_no_update BEFORE UPDATE ON {table} FOR EACH ROW EXECUTE FUNCTION {table}_refused()",
            f"CREATE TRIGGER {table}_no_delete BEFORE DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION {table}_kept()",
            f"CREATE TRIGGER {table}_no_truncate BEFORE TRUNCATE ON {table} FOR EACH STATEMENT EXECUTE FUNCTION {table}_refused()",
        ]
    if "emptied" in tables:
        there = "NOT EXISTS (SELECT 1 FROM starter WHERE id = NEW.starter_id AND removed IS NOT NULL)"
        found += [
            function("emptied_in_the_bin", there, "only a starter in the bin can be emptied"),
            "CREATE TRIGGER emptied_from_the_bin BEFORE INSERT ON emptied FOR EACH ROW EXECUTE FUNCTION emptied_in_the_bin()",
        ]
    return found


@contextmanager
def unguarded(connection: Connection) -> Iterator[None]:
    """Within one transaction without the triggers: for a copy that takes over rows as they are.

    They are on again before anybody else can see the tables; a transaction that fails leaves them as they were.
    """
    there = inspect(connection).get_table_names()
    tables = [t for t in KEPT_FOR_GOOD if t in there]
    for statement in unguard(connection.dialect.name, tables):
        connection.execute(text(statement))
    yield
    for statement in guard(connection.dialect.name, tables):
        connection.execute(text(statement))
