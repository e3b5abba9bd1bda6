"""The standards' tables and the schools, to be read and searched in the words that fitters use."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache

from volmek.data.loader import handbook, standard


@dataclass(frozen=True, slots=True)
class TablePage:
    """One table that the core uses.

    Attributes
    ----------
    name : name of its file
    title, source, used_for : what it is, where it comes from, what the core does with it
    headings : one per column, with the unit
    rows : cells as they are read; blank where the table has none
    """

    name: str
    title: str
    source: str
    used_for: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True)
class School:
    """One answer to a question on which fitters differ, and the reason for it.

    Attributes
    ----------
    question, answer : what is asked, what this school does
    followed : who does so
    reason : why
    field : path of the document's field that chooses it
    """

    question: str
    answer: str
    followed: str
    reason: str
    field: str


@dataclass(frozen=True, slots=True)
class UsualLoad:
    """A machine in a fitter's words, and the torque that it usually asks for."""

    machine: str
    words: str
    torque_pct: float
    shape: str
    breakaway_pct: float
    note: str


@cache
def usual_loads() -> tuple[UsualLoad, ...]:
    """Usual machines.

    Examples
    --------
    >>> usual_loads()[0].words
    'Fan, damper closed'
    """
    return tuple(
        UsualLoad(r["machine"], r["words"], float(r["torque_pct"]), r["shape"], float(r["breakaway_pct"]), r["note"])
        for r in handbook("loads")
    )


@cache
def table_pages() -> tuple[TablePage, ...]:
    """Every standards table the core uses, cells as text.

    Examples
    --------
    >>> table_pages()[0].rows[0]
    ('0.06', '0.35', '0.2', '0.16', '0.12')
    """
    return tuple(
        TablePage(
            row["name"],
            row["title"],
            row["source"],
            row["used_for"],
            tuple(row["headings"].split("|")),
            tuple(tuple(_cell(value) for value in cells.values()) for cells in standard(row["name"])),
        )
        for row in handbook("tables")
    )


def _cell(value: float | str | None) -> str:
    if isinstance(value, float):
        # A table is shown as it stands in the standard, not rounded to the figures of a result.
        return f"{value:.10g}"
    return (value or "").replace("_", " ")


@cache
def schools() -> tuple[School, ...]:
    """Each question on which fitters differ and the core offers a choice, with every answer's reason."""
    return tuple(School(**row) for row in handbook("schools"))


@cache
def _alike() -> dict[str, frozenset[str]]:
    groups = [frozenset(row["alike"].casefold().split("|")) for row in handbook("words")]
    return {word: group for group in groups for word in group}


def matches(find: str, text: str) -> bool:
    """Every word asked for, or a synonym, is in the text.

    Parameters
    ----------
    find : words as typed; none finds everything
    text : what is searched

    Examples
    --------
    >>> matches("wye overload", "Place of the overload relay in a star-delta starter: overload"), matches("latch", "Overload dial")
    (True, False)
    """
    words = set(re.findall(r"[\w.²/%-]+", text.casefold()))
    words |= {part for word in words for part in word.split("-")}
    return all(
        # A word of the trade is meant whole ("star" is no "starting"); any other may still be unfinished.
        words & {form for word in alike for form in (word, f"{word}s")}
        if (alike := _alike().get(asked))
        else any(word.startswith(asked) for word in words)
        for asked in find.casefold().split()
    )


def find_tables(find: str = "") -> list[TablePage]:
    """Tables whose title, source, use, headings or cells hold every word asked for.

    Examples
    --------
    >>> [page.name for page in find_tables("awg ampacity")]
    ['conductor_ampacity_copper_nec310_16']
    """
    return [p for p in table_pages() if matches(find, " ".join(_texts(p)))]


def _texts(page: TablePage) -> Iterable[str]:
    yield from (page.title, page.source, page.used_for, *page.headings)
    for row in page.rows:
        yield from row


def find_schools(find: str = "") -> list[School]:
    """Schools whose question, answer, followers or reason hold every word asked for.

    Examples
    --------
    >>> {school.question for school in find_schools("wye")}
    {'Place of the overload relay in a star-delta starter'}
    """
    return [s for s in schools() if matches(find, f"{s.question} {s.answer} {s.followed} {s.reason}")]
