"""Plain lists of devices: headings as printed on a price list or a label; missing values taken from a typical device and marked so."""

import re
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.catalogue.device_types import TABLES, VOLTAGE_COLUMNS, Contactor
from volmek.data.loader import handbook

#: How the types of example rows begin.
EXAMPLE = "EXAMPLE "
#: Columns of a contactor that grow with its current.
SCALED = tuple(
    name
    for name in Contactor.model_fields
    if name == "ac1_a" or name == "short_time_10s_a" or re.fullmatch(r"ac(3|3e|4)_\d+_a", name)
)
#: Columns of a contactor that a typical one of its size stands in for.
OF_SIZE = ("inrush_va", "sealed_va", "life_ac3_operations", "life_ac4_operations", "max_operations_per_h")


def _plain(heading: str) -> str:
    text = heading.casefold().replace("–", "-").replace("²", "2")
    return " ".join(re.sub(r"[^\w°%/+-]+", " ", text).split())


@cache
def _aliases() -> dict[str, tuple[str, ...]]:
    """Columns by each of their names."""
    found: dict[str, tuple[str, ...]] = {}
    for row in handbook("catalogue_columns"):
        names = {row["column"], row["heading"], re.sub(r",[^,]*$", "", row["heading"]), *row["also"].split("|")}
        for name in {_plain(n) for n in names if n}:
            found[name] = (*found.get(name, ()), row["column"])
    return found


def column_of(heading: str, table: str) -> str:
    """The column of a table that a heading means; the heading itself where it means none.

    Examples
    --------
    >>> column_of("Coil voltage", "contactors"), column_of("AC-3 at 400 V, A", "contactors"), column_of("colour", "contactors")
    ('coils', 'ac3_400_a', 'colour')
    """
    fields = TABLES[table].model_fields
    if heading in fields:
        return heading
    return next((c for c in _aliases().get(_plain(heading), ()) if c in fields), heading)


def table_of(headings: Sequence[str]) -> str | None:
    """The table that plain headings most likely belong to; None where they say too little.

    Examples
    --------
    >>> table_of(["Type", "Coil", "AC-3 at 400 V, A"]), table_of(["Type", "from", "to", "class"]), table_of(["name"])
    ('contactors', 'overload_relays', None)
    """
    score = {t: sum(column_of(h, t) in TABLES[t].model_fields for h in headings) for t in TABLES}
    best = max(score, key=score.__getitem__)
    return best if score[best] > 1 and score[best] >= len(headings) / 2 else None


_COIL = re.compile(
    r"^\s*(?:(?P<kind0>ac|dc)\s*)?(?P<low>\d+(?:[.,]\d+)?)(?:\s*(?:-|–|to|\.\.+|…)\s*(?P<high>\d+(?:[.,]\d+)?))?\s*v?\s*(?P<kind>ac|dc|~|=)?(?:\s*,?\s*(?P<hz>50/60|50|60)\s*hz)?\s*$",
    re.IGNORECASE,
)


def coils_of(text: str) -> str:
    """Coil as it is printed on a device, as a catalogue holds it; the text itself where it is not understood.

    Examples
    --------
    >>> coils_of("230 V AC"), coils_of("24VDC"), coils_of("220-240 V 50 Hz"), coils_of("ac24 dc24")
    ('ac230', 'dc24', 'ac220-240', 'ac24 dc24')
    """
    found = []
    for part in re.split(r"[,;/|](?!60)", text):
        match = _COIL.match(part)
        if match is None:
            return text
        said = (match["kind0"] or match["kind"] or "ac").lower()
        kind = {"~": "ac", "=": "dc"}.get(said, said)
        low, high = match["low"].replace(",", "."), (match["high"] or "").replace(",", ".")
        found.append(f"{kind}{low}{f'-{high}' if high else ''}")
    return " ".join(found)


def _number(text: str | None) -> float | None:
    match = re.fullmatch(r"\s*(\d+(?:[.,]\d+)?)\s*(?:A|kA|VA|Hz)?\s*", text or "", re.IGNORECASE)
    return float(match[1].replace(",", ".")) if match else None


def lacking(table: str, columns: Sequence[str]) -> str:
    """Columns that even a plain list of a table must have and has not; empty where it can be completed or is complete.

    Examples
    --------
    >>> lacking("contactors", ["type", "coils"])
    'a list of contactors needs type, coil and AC-3 at one voltage at least'
    >>> lacking("contactors", ["type", "coils", "ac3_400_a"])
    ''
    """
    has = set(columns)
    if table == "contactors" and not (
        {"type", "coils"} <= has and any(f"ac3_{v}_a" in has for v, _ in VOLTAGE_COLUMNS)
    ):
        return "a list of contactors needs type, coil and AC-3 at one voltage at least"
    if table == "overload_relays" and not {"type", "range_min_a"} <= has:
        return "a list of overload relays needs type and setting range at least"
    return ""


def completed(table: str, cells: Mapping[str, str], columns: Sequence[str]) -> dict[str, str]:
    """A row of a plain list with what a typical device of its size has, and which columns those are.

    Parameters
    ----------
    table : one of ``TABLES``; contactors and overload relays are completed, the others stay as they are
    cells : text cells by column
    columns : of the list; only what is none of them is completed, a blank cell stays blank

    Returns
    -------
    Cells, with ``typical`` naming the columns that nobody gave.

    Examples
    --------
    >>> row = completed("contactors", {"type": "KM-25", "coils": "230 V AC", "ac3_400_a": "25"}, ["type", "coils", "ac3_400_a"])
    >>> row["coils"], row["ac3_400_a"], "ac1_a" in row["typical"].split()
    ('ac230', '25', True)
    """
    row = {k: v for k, v in cells.items() if v}
    needed = [c for c, info in TABLES[table].model_fields.items() if info.is_required() and c not in columns]
    if not needed:
        return row
    if row.get("coils"):
        row["coils"] = coils_of(row["coils"])
    typical = _contactor(row) if table == "contactors" else _relay(row) if table == "overload_relays" else {}
    added = {c: text for c, text in typical.items() if c not in columns and c not in row}
    if added:
        row |= {**added, "typical": " ".join(added)}
    return row


def _contactor(row: dict[str, str]) -> dict[str, str]:
    """Values of a typical contactor with the current of this one."""
    given = [(v, f"ac3_{v}_a") for v, _ in VOLTAGE_COLUMNS if _number(row.get(f"ac3_{v}_a")) is not None]
    like, share = reference_catalogue().contactors[0], 1.0
    if given:
        own = next((name for v, name in given if v == 400), given[0][1])
        amps = _number(row[own]) or 1.0
        row[own] = f"{amps:g}"
        like = min(reference_catalogue().contactors, key=lambda d: abs(getattr(d, own) / amps - 1))
        share = amps / getattr(like, own)
    found = {n: f"{float(f'{share * v:.3g}'):g}" for n in SCALED if (v := getattr(like, n)) is not None}
    found |= {n: repr(v).removesuffix(".0") for n in OF_SIZE if (v := getattr(like, n)) is not None}
    # Nothing is known of its contacts and of what mounts on it: none, and a frame of its own.
    return found | {"auxiliary_no": "0", "auxiliary_nc": "0", "frame": row.get("type", "?")[:20]}


def _relay(row: dict[str, str]) -> dict[str, str]:
    """Values of a plain bimetal relay; a range in one cell is taken apart."""
    ends = re.fullmatch(
        r"\s*(\d+(?:[.,]\d+)?)\s*(?:-|–|to|\.\.+|…)\s*(\d+(?:[.,]\d+)?)\s*A?\s*", row.get("range_min_a", "")
    )
    if ends and "range_max_a" not in row:
        row["range_min_a"], row["range_max_a"] = (e.replace(",", ".") for e in ends.groups())
    return {
        "kind": "bimetal",
        "classes": "10",
        "mounts_on": "-",
        "separate_base": "base",
        "phase_loss_sensitive": "false",
    }


def example_rows(table: str, count: int = 3) -> list[dict[str, str]]:
    """Rows that show how a template is filled in: devices of the shipped range under names that are left out when the file is read.

    Examples
    --------
    >>> [row["type"] for row in example_rows("contactors")]
    ['EXAMPLE 1', 'EXAMPLE 2', 'EXAMPLE 3']
    """
    devices: Sequence[Any] = reference_catalogue().tables[table][:count]
    return [{**d.cells(), "type": f"{EXAMPLE}{n}"} for n, d in enumerate(devices, start=1)]
