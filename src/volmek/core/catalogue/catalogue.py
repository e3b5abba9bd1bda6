"""The devices to choose from: catalogues read from rows of text, looked through quickly, put side by side."""

import re
from bisect import bisect_left
from collections.abc import Callable, Iterable, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, field
from difflib import get_close_matches
from functools import cache, cached_property
from typing import Any, TypeVar, get_args

from pydantic import ValidationError

from volmek.core.catalogue.device_types import (
    TABLES,
    Contactor,
    ControlTransformer,
    Device,
    NemaStarter,
    OverloadRelay,
    PhaseMonitor,
    ShortCircuitDevice,
    SoftStarter,
    TestedCombination,
    Timer,
    is_number,
)
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import ProtectionDevice, problems_of
from volmek.core.standards.tables import iec_standard_ratings_a
from volmek.data.loader import reference

D = TypeVar("D", bound=Device)

#: Orders each table from the smallest device up; in the order given where there is no key.
_ORDER: dict[str, Callable[[Any], Any]] = {
    "contactors": lambda c: c.ac3_400_a,
    "overload_relays": lambda r: (r.kind == "electronic", r.range_max_a, r.range_max_a - r.range_min_a),
    "breakers": lambda d: (d.rated_current_a, d.icu_400_ka or 0),
    "fuses": lambda d: (d.rated_current_a, d.icu_400_ka or 0),
    "soft_starters": lambda g: g.rated_current_a,
    "timers": lambda t: (t.kind != "star_delta", t.range_max_s),
    "control_transformers": lambda t: (t.short_time_va, t.rated_va),
}


@dataclass(frozen=True, slots=True)
class RowProblem:
    """Error in one cell of a catalogue.

    Attributes
    ----------
    table, row, column : where; row 1 holds the headings, 0 stands for the whole table
    message : one sentence
    """

    table: str
    row: int
    column: str
    message: str

    def __str__(self) -> str:
        return ", ".join(filter(None, (self.table, f"row {self.row}" if self.row else "", self.column)))


_NUMBER = re.compile(r"[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?", re.IGNORECASE).fullmatch


def number_trouble(text: str) -> str | None:
    """Error in the text of a cell that must hold a number; None when it is a number.

    Examples
    --------
    >>> number_trouble("12 A")
    "'12 A' has a unit in it; write 12, the unit is in the heading"
    >>> number_trouble("12,5")
    "'12,5' has a comma in it; write 12.5, nothing between thousands"
    >>> number_trouble("a lot"), number_trouble("1.5e3")
    ("'a lot' is not a number", None)
    """
    if _NUMBER(text):
        return None
    if unit := re.fullmatch(r"([-+]?\d+(?:\.\d+)?)\s*[A-Za-zΩ°%µ²/]+\.?", text):
        return f"{text!r} has a unit in it; write {unit[1]}, the unit is in the heading"
    if re.fullmatch(r"[-+]?\d+(,\d+)+(\.\d+)?", text):
        said = text.replace(",", "." if text.count(",") == 1 and "." not in text else "")
        return f"{text!r} has a comma in it; write {said}, nothing between thousands"
    return f"{text!r} is not a number"


def check_headings(table: str, columns: Sequence[str]) -> list[RowProblem]:
    """Unknown, doubled and missing headings of one table."""
    model = TABLES[table]
    known = list(model.model_fields)
    problems = []
    for i, column in enumerate(columns):
        if column not in known:
            close = get_close_matches(column, known, n=1)
            more = f"; is {close[0]} meant?" if close else ""
            problems.append(RowProblem(table, 1, column or f"column {i + 1}", f"is not a column of {table}{more}"))
        elif column in columns[:i]:
            problems.append(RowProblem(table, 1, column, "is in the headings twice"))
    for column, info in model.model_fields.items():
        if info.is_required() and column not in columns:
            problems.append(RowProblem(table, 1, column, "this column is required"))
    return problems


def read_rows(
    table: str, rows: Iterable[tuple[int, Mapping[str, str]]], seen: dict[str, str] | None = None
) -> tuple[list[Device], list[RowProblem]]:
    """The devices of one table, and what is wrong with the rows that give none.

    Parameters
    ----------
    table : one of ``TABLES``
    rows : number of each row and its text cells by column; an empty cell is a value that is not known
    seen : types met so far and where, carried from table to table; a type may occur once in a catalogue
    """
    model = TABLES[table]
    numbers = {column for column in model.model_fields if is_number(model, column)}
    seen = {} if seen is None else seen
    devices: list[Device] = []
    problems: list[RowProblem] = []
    for number, cells in rows:
        known = {column: text for column, text in cells.items() if text != ""}
        wrong = []
        for column, text in known.items():
            if text.startswith("="):
                wrong.append(RowProblem(table, number, column, f"holds a formula, {text!r}; enter its value instead"))
            elif column in numbers and (trouble := number_trouble(text)):
                wrong.append(RowProblem(table, number, column, trouble))
        if wrong:
            problems += wrong
            continue
        try:
            device = model.model_validate(known)
        except ValidationError as error:
            problems += [
                RowProblem(table, number, p.field if p.field != "document" else "", p.message)
                for p in problems_of(error)
            ]
            continue
        if device.type in seen:
            message = f"{device.type!r} occurs twice; it is in {seen[device.type]} too"
            problems.append(RowProblem(table, number, "type", message))
        seen.setdefault(device.type, f"{table}, row {number}")
        devices.append(device)
    return devices, problems


def remarks(devices: Mapping[str, Iterable[Device]], known: Iterable[str]) -> list[str]:
    """Remarks on devices to be imported that are unusual without being wrong.

    Parameters
    ----------
    devices : by table
    known : types there are besides them
    """
    types = {*known, *(d.type for rows in devices.values() for d in rows)}
    said = []
    for d in (d for rows in devices.values() for d in rows):
        if isinstance(d, TestedCombination):
            parts = (d.short_circuit_device, *d.contactors, *filter(None, (d.overload_relay,)))
            if unknown := [p for p in parts if p not in types]:
                words = "which this catalogue and the shipped one do not have"
                said.append(f"{d.type} names {', '.join(unknown)}, {words}.")
        elif isinstance(d, ShortCircuitDevice):
            ratings = iec_standard_ratings_a(d.kind)
            if ratings and d.rated_current_a not in ratings:
                said.append(f"{d.type}: {d.rated_current_a:g} A is no standard rating of a {d.kind.replace('_', ' ')}.")
    return said


@dataclass(frozen=True, eq=False)
class Catalogue:
    """The devices of one catalogue, or of several side by side, each kind from the smallest up.

    Attributes
    ----------
    name : what it is called on screen
    tables : devices by table
    sources : catalogue that each type comes from, where that is not ``name``
    kept : types that an unchanged design holds on to, though another device would be picked today
    gone : types that are there only because a design keeps them, with what became of them in the catalogue
    """

    name: str
    tables: Mapping[str, tuple[Device, ...]] = field(repr=False)
    sources: Mapping[str, str] = field(default_factory=dict, repr=False)
    kept: frozenset[str] = frozenset()
    gone: Mapping[str, str] = field(default_factory=dict)

    @classmethod
    def of(cls, name: str, devices: Mapping[str, Iterable[Device]], **more: Any) -> "Catalogue":
        """A catalogue from devices by table."""
        tables = {}
        for table in TABLES:
            rows, key = devices.get(table, ()), _ORDER.get(table)
            tables[table] = tuple(sorted(rows, key=key) if key else rows)
        return cls(name, tables, **more)

    @classmethod
    def from_rows(cls, name: str, tables: Mapping[str, Iterable[Mapping[str, str]]]) -> "Catalogue":
        """A catalogue from rows of text cells, one list for each table of ``TABLES``.

        Raises
        ------
        ProblemError : each cell that does not fit, by table, row and column; also a type that occurs twice.
        """
        devices: dict[str, list[Device]] = {}
        problems: list[RowProblem] = []
        seen: dict[str, str] = {}
        for table, rows in tables.items():
            devices[table], wrong = read_rows(table, enumerate(rows, start=2), seen)
            problems += wrong
        if problems:
            raise ProblemError([Problem(str(p), p.message) for p in problems])
        return cls.of(name, devices)

    def _table(self, name: str) -> tuple[Any, ...]:
        return self.tables[name]

    @cached_property
    def contactors(self) -> tuple[Contactor, ...]:
        """By their AC-3 rating at 400 V."""
        return self._table("contactors")

    @cached_property
    def nema_starters(self) -> tuple[NemaStarter, ...]:
        """In the order of their file."""
        return self._table("nema_starters")

    @cached_property
    def overload_relays(self) -> tuple[OverloadRelay, ...]:
        """Bimetal before electronic, by the top of their range."""
        return self._table("overload_relays")

    @cached_property
    def soft_starters(self) -> tuple[SoftStarter, ...]:
        """By their rated current."""
        return self._table("soft_starters")

    @cached_property
    def timers(self) -> tuple[Timer, ...]:
        """Those for star-delta first, by the top of their range."""
        return self._table("timers")

    @cached_property
    def phase_monitors(self) -> tuple[PhaseMonitor, ...]:
        """In the order of their file."""
        return self._table("phase_monitors")

    @cached_property
    def control_transformers(self) -> tuple[ControlTransformer, ...]:
        """By what they give for a moment."""
        return self._table("control_transformers")

    @cached_property
    def combinations(self) -> tuple[TestedCombination, ...]:
        """Tested combinations, in the order of their file."""
        return self._table("tested_combinations")

    @cached_property
    def combinations_by_front(self) -> dict[str, list[TestedCombination]]:
        """Tested combinations by their breaker or fuse."""
        found: dict[str, list[TestedCombination]] = {}
        for t in self.combinations:
            found.setdefault(t.short_circuit_device, []).append(t)
        return found

    @cached_property
    def short_circuit_devices(self) -> dict[ProtectionDevice, tuple[ShortCircuitDevice, ...]]:
        """Breakers and fuses of each kind, by rated current and then by breaking capacity."""
        found: dict[ProtectionDevice, list[ShortCircuitDevice]] = {kind: [] for kind in get_args(ProtectionDevice)}
        for d in (*self._table("breakers"), *self._table("fuses")):
            found[d.kind].append(d)
        return {kind: tuple(devices) for kind, devices in found.items()}

    @cached_property
    def by_type(self) -> dict[str, tuple[str, Device]]:
        """Table and row of every type there is in it."""
        return {d.type: (table, d) for table, devices in self.tables.items() for d in devices}

    def types(self) -> frozenset[str]:
        """Every type there is in it."""
        return frozenset(self.by_type)

    def source_of(self, type: str) -> str:
        """Name of the catalogue that a type comes from."""
        return self.sources.get(type, self.name)

    @cached_property
    def _ordered(self) -> dict[tuple[int, str], tuple[list[float], tuple[Any, ...], tuple[Any, ...]]]:
        return {}

    def from_rating(self, devices: tuple[D, ...], column: str, least: float) -> tuple[tuple[D, ...], int]:
        """Devices ordered by a rating, and the place of the first that has at least so much.

        Examples
        --------
        >>> c = reference_catalogue()
        >>> devices, first = c.from_rating(c.contactors, "ac3_400_a", 11)
        >>> devices[first - 1].type, devices[first].type
        ('RC-10', 'RC-13')
        """
        key = (id(devices), column)
        if key not in self._ordered:
            ordered = tuple(sorted(devices, key=lambda d: getattr(d, column)))
            # The tuple itself is kept too: while it lives, no other one can have its id.
            self._ordered[key] = ([getattr(d, column) for d in ordered], ordered, devices)
        ratings, ordered, _ = self._ordered[key]
        return ordered, bisect_left(ratings, least * (1 - 1e-6))

    def keeping(self, devices: Mapping[str, Iterable[Device]], *, unchanged: bool) -> "Catalogue":
        """This catalogue with the devices that a design keeps, whatever has become of them here.

        Parameters
        ----------
        devices : what the design is made of, by table
        unchanged : the design is only looked at, so nothing in it gives way to a device that came later
        """
        held = {d.type: (table, d) for table, rows in devices.items() for d in rows}
        gone = {}
        for type, place in held.items():
            here = self.by_type.get(type)
            if here is None:
                gone[type] = f"{type} is no longer in the catalogue of this board"
            elif here != place:
                gone[type] = f"{type} has changed in the catalogue"
        kept = frozenset(held) if unchanged else frozenset()
        if not gone:
            same = copy(self)  # with everything that was sorted already
            object.__setattr__(same, "kept", kept)
            return same
        tables = {
            name: [*(d for d in rows if d.type not in gone), *(held[t][1] for t in gone if held[t][0] == name)]
            for name, rows in self.tables.items()
        }
        return Catalogue.of(self.name, tables, sources=self.sources, kept=kept, gone=gone)


def side_by_side(catalogues: Sequence[Catalogue]) -> Catalogue:
    """Several catalogues as one; of a type that is in two of them, the first one's counts.

    Examples
    --------
    >>> side_by_side([reference_catalogue()]).name
    'Reference range R'
    """
    if len(catalogues) == 1:
        return catalogues[0]
    devices: dict[str, list[Device]] = {table: [] for table in TABLES}
    sources: dict[str, str] = {}
    for c in catalogues:
        for type, (table, device) in c.by_type.items():
            if type not in sources:
                sources[type] = c.name
                devices[table].append(device)
    return Catalogue.of(" + ".join(c.name for c in catalogues), devices, sources=sources)


@cache
def reference_catalogue() -> Catalogue:
    """The invented *Reference range R* that ships with the application."""
    return Catalogue.from_rows("Reference range R", {name: reference(name) for name in TABLES})
