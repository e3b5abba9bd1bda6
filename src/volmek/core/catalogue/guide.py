"""Meaning of the tables of a catalogue and their columns, for the page, the templates and the import."""

from dataclasses import dataclass
from functools import cache
from typing import Literal, cast, get_args, get_origin

from volmek.core.catalogue.device_types import TABLES, TableName, is_number
from volmek.core.document.model import BREAKERS, FUSES
from volmek.data.loader import handbook


@dataclass(frozen=True, slots=True)
class ColumnGuide:
    """One column: its name, its heading and group for people, whether each row needs it, whether it holds numbers, and what it means."""

    name: str
    heading: str
    group: str
    needed: bool
    number: bool
    meaning: str


@dataclass(frozen=True, slots=True)
class TableGuide:
    """One table of a catalogue, with its columns in the order of the templates."""

    table: TableName
    title: str
    used_for: str
    columns: tuple[ColumnGuide, ...]


def column_heading(column: str) -> str:
    """Heading of a column for people.

    Examples
    --------
    >>> column_heading("ac3_400_a")
    'AC-3 at 400 V, A'
    """
    return next(row["heading"] for row in handbook("catalogue_columns") if row["column"] == column)


def answers(table: str, column: str) -> tuple[str, ...]:
    """The words that the cells of a column may hold, where they are few.

    Examples
    --------
    >>> answers("timers", "kind")
    ('star_delta', 'on_delay')
    """
    if column == "kind" and table in ("breakers", "fuses"):
        return BREAKERS if table == "breakers" else FUSES
    info = TABLES[table].model_fields.get(column)
    return get_args(info.annotation) if info and get_origin(info.annotation) is Literal else ()


@cache
def table_guides() -> tuple[TableGuide, ...]:
    """Every table of a catalogue.

    Examples
    --------
    >>> guide = table_guides()[0]
    >>> guide.title, guide.columns[0].name
    ('Contactors', 'type')
    """
    rows = {row["column"]: row for row in handbook("catalogue_columns")}
    guides = []
    for row in handbook("catalogue_tables"):
        model = TABLES[row["table"]]
        columns = []
        for name, info in sorted(model.model_fields.items(), key=lambda x: x[0] == "typical"):  # marked last
            words = answers(row["table"], name)
            meaning = rows[name]["meaning"] + (f" One of {', '.join(words)}." if words else "")
            columns.append(
                ColumnGuide(
                    name,
                    rows[name]["heading"],
                    rows[name]["group"],
                    info.is_required(),
                    is_number(model, name),
                    meaning,
                )
            )
        guides.append(TableGuide(cast(TableName, row["table"]), row["title"], row["used_for"], tuple(columns)))
    return tuple(guides)
