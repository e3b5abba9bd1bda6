"""Reads the CSV facts that ship with the package, and checks them while doing so.

A cell that is not what its column promises stops the program at once with file, row and column:
a wrong standard value must never reach a fitter.
"""

import csv
from collections.abc import Iterable, Iterator, Mapping
from functools import cache
from importlib.resources import files
from typing import Any

Row = Mapping[str, Any]

#: Column kinds of each standards table: n number, n? number or blank, i integer, t text.
STANDARDS: dict[str, dict[str, str]] = {
    "motor_current_three_phase_iec": {"rated_power_kw": "n", "*": "n"},
    "motor_current_three_phase_nec": {"rated_power_hp": "n", "*": "n?"},
    "motor_current_single_phase_nec": {"*": "n"},
    "motor_efficiency_ie3_50hz": {"*": "n"},
    "typical_motor_data_4pole": {"*": "n"},
    "motor_ambient_altitude_factor": {"kind": "t", "*": "n"},
    "locked_rotor_code_letter_nec": {"code_letter": "t", "kva_per_hp_min": "n", "kva_per_hp_max": "n?"},
    "overload_trip_class_iec": {"trip_class": "t", "*": "n"},
    "coordination_test_current_iec60947_4_1": {"*": "n"},
    "standard_ratings_fuse_iec": {"rating_a": "n", "kinds": "t"},
    "standard_ratings_miniature_breaker_iec": {"*": "n"},
    "standard_ratings_moulded_case_breaker_iec": {"*": "n"},
    "fuse_gg_gates_iec60269": {"prearcing_i2t_min_10ms_a2s": "n?", "status": "t", "*": "n"},
    "fuse_am_gates_iec60269": {"multiple_of_rated": "n", "*": "n?"},
    "mcb_iec60898": {"curve": "t", "*": "n"},
    "motor_branch_device_limits_nec430_52": {"device": "t", "note": "t", "*": "n"},
    "standard_device_ratings_nec240_6": {"rating_a": "n", "applies_to": "t"},
    "starter_size_nema": {"size": "t", "continuous_a": "n", "service_limit_a": "n", "*": "n?"},
    "voltage_unbalance_derating_nema_mg1": {"*": "n"},
    "disconnection_time_iec60364_4_41": {"system": "t", "*": "n"},
    "spread_of_inputs": {"input": "t", "for": "t", "kind": "t", "source": "t", "how": "t", "*": "n"},
    "spread_of_circuit": {"quantity": "t", "basis": "t", "*": "n"},
    "cable_current_capacity_copper_iec": {"*": "n"},
    "cable_ambient_factor_iec": {"ambient_c": "n", "*": "n?"},
    "cable_grouping_factor_iec": {"*": "n"},
    "conductor_ampacity_copper_nec310_16": {"size": "t", "*": "n"},
    "conductor_ambient_factor_nec_75c": {"*": "n"},
    "conductor_count_factor_nec": {"current_carrying_max": "n?", "*": "n"},
    "system_voltage_ansi": {"*": "n"},
}


class DataError(ValueError):
    """A shipped table is broken; the message names file, row and column."""


def _cell(kind: str, text: str) -> float | int | str | None:
    if kind == "t":
        return text
    if text == "":
        if kind == "n?":
            return None
        raise DataError("a value is missing")
    try:
        return int(text) if kind == "i" else float(text)
    except ValueError:
        raise DataError(f"{text!r} is not a number") from None


def parse(lines: Iterable[str], columns: Mapping[str, str], name: str) -> Iterator[dict[str, Any]]:
    """Rows of one CSV text, each cell converted to the kind of its column.

    Raises
    ------
    DataError : a cell does not fit its column, or a row has too many or too few cells.
    """
    rows = csv.reader(lines)
    names = next(rows, [])
    kinds = [columns.get(column, columns.get("*", "t")) for column in names]
    for number, cells in enumerate(rows, start=2):
        if not cells:
            continue
        if len(cells) != len(names):
            raise DataError(f"{name}, row {number}: wrong number of cells")
        row: dict[str, Any] = {}
        for column, kind, text in zip(names, kinds, cells, strict=True):
            try:
                row[column] = _cell(kind, text.strip())
            except DataError as error:
                raise DataError(f"{name}, row {number}, {column}: {error}") from None
        yield row


@cache
def standard(name: str) -> tuple[Row, ...]:
    """One standards table, in the order of its file.

    Examples
    --------
    >>> standard("mcb_iec60898")[0]["instantaneous_min_multiple"]
    3.0
    """
    text = (files("volmek.data") / "standards" / f"{name}.csv").read_text(encoding="utf-8")
    return tuple(parse(text.splitlines(), STANDARDS[name], f"{name}.csv"))


@cache
def finding_rules() -> dict[str, Row]:
    """Rule, source and remedy of every finding, by its code."""
    text = (files("volmek.data") / "findings.csv").read_text(encoding="utf-8")
    return {row["code"]: row for row in parse(text.splitlines(), {}, "findings.csv")}


@cache
def texts(folder: str, name: str) -> tuple[Mapping[str, str], ...]:
    """One CSV file with its cells as text: of ``reference`` (the catalogue types check them) or of ``handbook``."""
    text = (files("volmek.data") / folder / f"{name}.csv").read_text(encoding="utf-8")
    return tuple(parse(text.splitlines(), {}, f"{name}.csv"))


def reference(name: str) -> tuple[Mapping[str, str], ...]:
    """One file of the shipped *Reference range R*."""
    return texts("reference", name)


def handbook(name: str) -> tuple[Mapping[str, str], ...]:
    """One file of the handbook: tables, practices, words of the trade."""
    return texts("handbook", name)


def demo(name: str) -> str:
    """Text of one demo file."""
    return (files("volmek.data") / "demo" / name).read_text(encoding="utf-8")
