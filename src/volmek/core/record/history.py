"""Readings over the years: small charts with their limits, the trend through them, and a sentence where something creeps."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from statistics import median

from volmek.core.physics.numeric import np
from volmek.core.plate.plate import voltage_unbalance_pct
from volmek.core.record.items import Item, Severity, judge
from volmek.core.record.journal import Entry
from volmek.core.results.drawing import Drawing, Shape, circle, line, text
from volmek.core.results.figures import as_read

YEAR_S = 365.25 * 86400
#: How far a trend is followed.
FORESEEN_S = 10 * YEAR_S
#: Most points that a trend goes through: more are taken together by their medians.
MOST = 160
#: A trend needs so many readings over so long, and must go so far over the scatter and over the value itself.
LEAST, LEAST_S, OVER_SCATTER, OVER_VALUE = 3, 120 * 86400, 2.0, 0.03
#: Limits so near to the readings are drawn.
NEAR = 0.12
#: Readings of the three lines that belong together were taken within this time.
TOGETHER = timedelta(hours=12)
WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 300.0, 120.0, 34.0, 46.0, 12.0, 20.0


@dataclass(frozen=True, slots=True)
class Measured:
    """One value at a time."""

    at: datetime
    value: float
    who: str = ""


@dataclass(frozen=True, slots=True)
class Series:
    """One thing measured again and again.

    Attributes
    ----------
    id, title, unit : which it is
    count : how many readings there are
    last, severity : the newest and what it says
    per_year : trend [unit/a], None where none can be told
    words : a sentence where something creeps, else what can be said
    creeps : something does
    chart : drawn
    """

    id: str
    title: str
    unit: str
    count: int
    last: Measured
    severity: Severity
    per_year: float | None
    words: str
    creeps: bool
    chart: Drawing


def slope(seconds: Sequence[float], values: Sequence[float]) -> float:
    """Median of the slopes through every two points: one wild reading does not bend it.

    Parameters
    ----------
    seconds, values : of the same length, at least two different times

    Examples
    --------
    >>> slope([0, 1, 2, 3, 4], [10, 11, 12, 99, 14])
    1.0

    References
    ----------
    Theil (1950), Sen (1968).
    """
    x, y = np.asarray(seconds, dtype=float), np.asarray(values, dtype=float)
    i, j = np.triu_indices(len(x), 1)
    dx = x[j] - x[i]
    keep = dx > 0
    return float(np.median((y[j] - y[i])[keep] / dx[keep])) if keep.any() else 0.0


def taken_together(readings: Sequence[Measured], most: int = MOST) -> list[Measured]:
    """At most so many points; neighbours are taken together by their medians.

    Examples
    --------
    >>> day = datetime(2026, 1, 1, tzinfo=UTC)
    >>> [r.value for r in taken_together([Measured(day, v) for v in (1, 2, 9, 4)], 2)]
    [1.5, 6.5]
    """
    if len(readings) <= most:
        return list(readings)
    edges = np.linspace(0, len(readings), most + 1).astype(int)
    found = []
    for a, b in pairwise(edges):
        part = readings[a:b]
        found.append(Measured(part[len(part) // 2].at, median(r.value for r in part), part[-1].who))
    return found


@dataclass(frozen=True, slots=True)
class Trend:
    """Trend of a series of readings.

    Attributes
    ----------
    per_year : change in a year, None where none can be told
    words : one sentence
    creeps : it goes towards a limit that it meets before long
    left_s : time until then [s]
    """

    per_year: float | None
    words: str
    creeps: bool = False
    left_s: float = 0.0


def trend(item: Item, readings: Sequence[Measured]) -> Trend:
    """Change in a year, a sentence, and whether something creeps towards its limit.

    Examples
    --------
    >>> i = Item("load.L2", "running", "Load current L2", "", "A", attention_above=66)
    >>> years = [Measured(datetime(2023 + n, 5, 1, tzinfo=UTC), v) for n, v in enumerate((58.1, 60.0, 61.9))]
    >>> trend(i, years).words
    'Load current L2 creeps up: 58.1 A in 2023, 61.9 A in 2025, 1.9 A a year; at this rate it meets its limit of 66 A in 2027.'
    """
    points = taken_together(readings)
    seconds = [r.at.timestamp() for r in points]
    span = seconds[-1] - seconds[0]
    if len(points) < LEAST or span < LEAST_S:
        many = f"{len(readings)} reading{'' if len(readings) == 1 else 's'}"
        return Trend(None, f"{many}; a trend needs {LEAST} over some months.")
    per_second = slope(seconds, [r.value for r in points])
    middle = median(r.value - per_second * s for r, s in zip(points, seconds, strict=True))
    scatter = median(abs(r.value - middle - per_second * s) for r, s in zip(points, seconds, strict=True))
    moved, level = per_second * span, abs(median(r.value for r in points)) or 1.0
    per_year = per_second * YEAR_S
    if abs(moved) < OVER_SCATTER * scatter or abs(moved) < OVER_VALUE * level:
        ends = f"{as_read(points[0].value)} {item.unit} in {points[0].at.year}, {as_read(points[-1].value)} {item.unit} in {points[-1].at.year}"
        return Trend(per_year, f"{item.title} stays where it is: {ends}.")
    up = moved > 0
    limit = item.attention_above if up else item.attention_below
    limit = (item.stop_above if up else item.stop_below) if limit is None else limit
    now = middle + per_second * seconds[-1]
    said = (
        f"{item.title} {'creeps up' if up else 'goes down'}: {as_read(points[0].value)} {item.unit} in {points[0].at.year}, "
        f"{as_read(points[-1].value)} {item.unit} in {points[-1].at.year}, {float(f'{abs(per_year):.2g}'):g} {item.unit} a year"
    )
    if limit is None:
        return Trend(per_year, f"{said}.", up, FORESEEN_S)
    if (now > limit) == up:
        return Trend(per_year, f"{said}; it is past its limit of {as_read(limit)} {item.unit}.", True)
    left_s = (limit - now) / per_second
    if left_s > FORESEEN_S:
        return Trend(per_year, f"{said}.")
    year = datetime.fromtimestamp(seconds[-1] + left_s, UTC).year
    return Trend(
        per_year, f"{said}; at this rate it meets its limit of {as_read(limit)} {item.unit} in {year}.", True, left_s
    )


def chart(item: Item, readings: Sequence[Measured], per_year: float | None) -> Drawing:
    """Readings as dots over the years, limits dashed, the trend through them; legible without colour."""
    points = taken_together(readings)
    seconds = [r.at.timestamp() for r in points]
    values = [r.value for r in points]
    limits = [
        x for x in (item.attention_above, item.stop_above, item.attention_below, item.stop_below) if x is not None
    ]
    near = [x for x in limits if NEAR * min(values) <= x <= max(values) / NEAR] if max(values) > 0 else []
    low, high = min(*values, *near, *values[:1]), max(*values, *near, *values[:1])
    room = (high - low) * 0.12 or abs(high) * 0.1 or 1.0
    low, high = low - room, high + room
    first, last = seconds[0], max(seconds[-1], seconds[0] + 1)

    def x(s: float) -> float:
        return LEFT + (WIDTH - LEFT - RIGHT) * ((s - first) / (last - first) if len(points) > 1 else 0.5)

    def y(v: float) -> float:
        return TOP + (HEIGHT - TOP - BOTTOM) * (high - v) / (high - low)

    floor = HEIGHT - BOTTOM
    shapes: list[Shape] = [line(LEFT, TOP, LEFT, floor, WIDTH - RIGHT, floor, weight="hair")]
    taken: list[float] = []
    for limit in dict.fromkeys(near):
        shapes.append(
            line(
                LEFT,
                y(limit),
                WIDTH - RIGHT,
                y(limit),
                dashed=True,
                tone="stop" if limit in (item.stop_above, item.stop_below) else "quiet",
            )
        )
        if all(abs(y(limit) - t) > 10 for t in taken):
            taken.append(y(limit))
            shapes.append(text(LEFT - 4, y(limit) + 3.5, as_read(limit), 11, "end"))
    if per_year is not None and len(points) > 1:
        rate = per_year / YEAR_S
        middle = median(v - rate * s for v, s in zip(values, seconds, strict=True))
        shapes.append(
            line(x(first), y(middle + rate * first), x(last), y(middle + rate * last), weight="normal", tone="accent")
        )
    shapes += [
        circle(x(s), y(v), 2.6 if len(points) < 40 else 1.4, filled=True) for s, v in zip(seconds, values, strict=True)
    ]
    shapes.append(text(x(seconds[-1]) + 6, y(values[-1]) + 3.5, as_read(values[-1]), 11, "start"))
    shapes.append(text(LEFT, HEIGHT - 6, str(points[0].at.year), 11, "start"))
    if points[-1].at.year != points[0].at.year:
        shapes.append(text(WIDTH - RIGHT, HEIGHT - 6, str(points[-1].at.year), 11, "end"))
    return Drawing(
        WIDTH,
        HEIGHT,
        f"{item.title} from {points[0].at.year} to {points[-1].at.year}, last {as_read(values[-1])} {item.unit}",
        shapes,
    )


def measured(readings: Mapping[str, Sequence[Entry]]) -> dict[str, list[Measured]]:
    """The numbers among the readings of a journal, by item."""
    return {
        id: [Measured(e.said, float(e.body["value"]), e.who) for e in es if not isinstance(e.body["value"], str)]
        for id, es in readings.items()
    }


def history(items: Iterable[Item], readings: Mapping[str, Sequence[Measured]]) -> list[Series]:
    """Trend of each item measured at least once, the rising ones first.

    Parameters
    ----------
    items : that are worth following
    readings : what was measured of each item
    """
    found: list[tuple[bool, float, bool, int, Series]] = []
    known = {i.id: i for i in items}
    values = {id: sorted(readings.get(id, ()), key=lambda r: r.at) for id in known}
    for item, points in [*((known[id], r) for id, r in values.items()), *_unbalances(known, values)]:
        if points:
            to = trend(item, points)
            severity = judge(item, points[-1].value).severity
            drawn = chart(item, points, to.per_year)
            series = Series(
                item.id,
                item.title,
                item.unit,
                len(points),
                points[-1],
                severity,
                to.per_year,
                to.words,
                to.creeps,
                drawn,
            )
            found.append((not to.creeps, to.left_s, len(points) < LEAST, len(found), series))
    return [row[-1] for row in sorted(found, key=lambda row: row[:-1])]


UNBALANCED = {
    "load": (
        "Unbalance of the load currents",
        10.0,
        20.0,
        "NEMA MG 1, 14.36: some 6 to 10 times the unbalance of the voltages",
    ),
    "no_load": ("Unbalance of the no-load currents", 15.0, 30.0, "a damaged winding, or unbalanced voltages"),
    "voltage": ("Unbalance of the voltages", 2.0, 5.0, "NEMA MG 1, 12.45; above 5 % the motor must not run"),
}
LINES = {"load": ("load.L1", "load.L2", "load.L3"), "no_load": ("no_load.L1", "no_load.L2", "no_load.L3"), "voltage": ("voltage.L1-L2", "voltage.L2-L3", "voltage.L3-L1")}  # fmt: skip


def unbalance_item(name: str) -> Item:
    """The unbalance of three readings as something with limits of its own."""
    title, attention, stop, source = UNBALANCED[name]
    return Item(f"unbalance.{name}", "running", title, "computed from the three readings", "%", attention_above=attention, stop_above=stop,
                reason="more heat than the load makes", source=source)  # fmt: skip


def _unbalances(
    items: Mapping[str, Item], values: Mapping[str, Sequence[Measured]]
) -> Iterable[tuple[Item, list[Measured]]]:
    for name, ids in LINES.items():
        if not all(id in items for id in ids):
            continue
        first, *others = (values[id] for id in ids)
        nexts = [0, 0]
        found: list[Measured] = []
        for r in first:
            row = [r.value]
            for k, other in enumerate(others):
                while nexts[k] < len(other) and other[nexts[k]].at < r.at - TOGETHER:
                    nexts[k] += 1
                if nexts[k] < len(other) and abs(other[nexts[k]].at - r.at) <= TOGETHER:
                    row.append(other[nexts[k]].value)
            if len(row) == 3 and sum(row) > 0:
                found.append(Measured(r.at, voltage_unbalance_pct((row[0], row[1], row[2]))))
        yield unbalance_item(name), found
