"""The time-current sheet: motor start, relay, breaker or fuse, contactor, cable and upstream device on one log-log drawing."""

from bisect import bisect_left
from collections.abc import Callable
from dataclasses import dataclass
from math import inf, log10
from typing import Literal

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.coordination.checks import Band, band_of, stands_a2s, upstream_band
from volmek.core.design import Design
from volmek.core.devices.device import Device
from volmek.core.devices.dial import protecting
from volmek.core.devices.short_circuit import ROLE
from volmek.core.document.model import StarterDocument
from volmek.core.methods.build import Built
from volmek.core.methods.front import KINDS
from volmek.core.physics.thermal import ThermalEdge, fuse_corners_a
from volmek.core.plate.plate import Plate
from volmek.core.results.drawing import Drawing, Shape, circle, line, rect, text
from volmek.core.results.figures import as_read, within
from volmek.core.sizing import size

SHORTEST_S, LONGEST_S = 0.005, 10_000.0
POINTS = 120
#: The heat of a fault stays in the cable up to this time.
ADIABATIC_LIMIT_S = 5.0
CurveKind = Literal["start", "withstand", "relay", "device", "upstream", "cable", "measured"]


@dataclass(frozen=True, slots=True)
class TimeCurve:
    """One curve: time over line current.

    Attributes
    ----------
    name, label : short name, and what it is in words
    kind : what it belongs to
    current_a, time_s : its points, by rising current but for the start
    edge : ``earliest``, ``latest`` or nothing
    """

    name: str
    label: str
    kind: CurveKind
    current_a: list[float]
    time_s: list[float]
    edge: str = ""


@dataclass(frozen=True, slots=True)
class Limit:
    """A current that matters by itself: a line from top to bottom."""

    name: str
    label: str
    current_a: float


@dataclass(frozen=True, slots=True)
class Mark:
    """A crossing that matters, in one sentence."""

    name: str
    current_a: float
    time_s: float
    state: Literal["fine", "attention", "stop"]
    words: str


@dataclass(frozen=True, slots=True)
class TimeCurrentView:
    """Contents of the sheet, and the range of its axes."""

    curves: list[TimeCurve]
    limits: list[Limit]
    marks: list[Mark]
    low_a: float
    high_a: float
    drawing: Drawing


def time_current_view(document: StarterDocument, catalogue: Catalogue) -> TimeCurrentView:
    """Every curve of one starter, in amperes of the line.

    Raises
    ------
    ProblemError : as ``design``.
    """
    sized = size(document, catalogue)
    c, built, plate, figures = sized.context, sized.built, sized.plate, sized.design.figures
    front = next(d for d in built.devices if d.role == ROLE)
    band = None
    if front.none_fits is None:
        row = catalogue.by_type[front.type][1]
        assert isinstance(row, ShortCircuitDevice)
        band = band_of(c, KINDS[front.kind], row, front)
    locked = plate.locked_rotor.number
    prospective = built.network.current_a if built.network else None
    high = 1.6 * max(prospective or 0.0, 30 * plate.design.number, 2 * (band.upper_a or 0.0 if band else 0.0))
    low = 0.6 * plate.permitted.number
    currents = [low * (high / low) ** (i / (POINTS - 1)) for i in range(POINTS)]
    curves = [_start(built, plate)]
    stall = document.motor.permitted_stall_time_s
    if stall:
        xs = [x for x in currents if 1.5 * plate.design.number <= x < locked] + [locked]
        curves.append(
            TimeCurve(
                "locked rotor",
                f"locked rotor withstand, {stall:g} s at {as_read(locked)} A, warm",
                "withstand",
                xs,
                [stall * (locked / x) ** 2 for x in xs],
            )
        )
    relay = protecting(built.devices)
    dial_a = 0.0
    if relay:
        dial_a = relay.dial_line_a or 0.0
        edges = relay.trip_edges
        name = f"{relay.designation} class {relay.settings.trip_class}"
        for edge, which, warm in ((edges.fast, "earliest", False), (edges.slow, "latest", False), (edges.fast, "earliest", True), (edges.slow, "latest", True)):  # fmt: skip
            curves.append(_relay_curve(name, edge, which, dial_a, currents, warm=warm))
    if band:
        curves += _band_curves(
            band, f"{front.designation} {front.type}", "device", currents, thermal=relay is not front
        )
    upstream = upstream_band(c, KINDS)
    if upstream:
        curves += _band_curves(upstream, "upstream", "upstream", currents, thermal=True)
    for own in document.protection.measured_curves:
        xs, ts = [p[0] for p in own.points], [min(max(p[1], SHORTEST_S), LONGEST_S) for p in own.points]
        curves.append(TimeCurve(own.name, "measured", "measured", xs, ts))
    limits = []
    contactor = next(
        (d for d in built.devices if d.kind == "contactor" and not d.role.startswith("rotor_contactor")), None
    )
    breaks = None
    if contactor and contactor.none_fits is None and not c.nec:
        share = float(contactor.required.current_a or 0) / plate.sizing.number
        breaks = 8 * float(contactor.selected.rated_current_a or 0) / share
        limits.append(
            Limit(f"{contactor.designation} breaks", f"proven breaking capacity of {contactor.designation}", breaks)
        )
    if prospective:
        limits.append(Limit("Ik", "prospective fault current at the board", prospective))
    if "test_current_r_ka" in figures:
        limits.append(Limit("r", "test current of the coordination", 1000 * figures["test_current_r_ka"].number))
    if cable := sized.context.cable:
        section = cable.section_mm2
        heat = stands_a2s(section, document.supply.cable_insulation or "pvc")
        xs = [x for x in currents if SHORTEST_S <= heat / x**2 <= ADIABATIC_LIMIT_S]
        curves.append(
            TimeCurve(
                f"{section:g} mm²", f"withstand of {section:g} mm² copper", "cable", xs, [heat / x**2 for x in xs]
            )
        )
    marks = _marks(sized.design, built, plate, relay, dial_a, band, front, breaks, stall)
    return TimeCurrentView(curves, limits, marks, low, high, _drawing(curves, limits, marks, low, high))


def _start(built: Built, plate: Plate) -> TimeCurve:
    """The motor's own current, from the first moment until it runs: what everything must let pass."""
    locked, name = plate.locked_rotor.number, "motor start"
    xs: list[float] = []
    ts: list[float] = []
    steps = built.start.profile.steps
    if steps:
        now = 0.0
        for dt, amps, _ in steps:
            xs += [amps, amps]
            ts += [max(now, SHORTEST_S), max(now + dt, SHORTEST_S)]
            now += dt
        label = "the motor's current while it runs up, as computed"
    else:
        now = built.start.profile.start_s
        xs, ts = [locked, locked], [SHORTEST_S, now]
        label = f"the motor's current at the start, {as_read(now)} s at standstill current"
    xs += [plate.design.number, plate.design.number]
    ts += [now, LONGEST_S]
    return TimeCurve(name, label, "start", xs, ts)


def _relay_curve(
    name: str, edge: ThermalEdge, which: str, dial_a: float, currents: list[float], *, warm: bool
) -> TimeCurve:
    theta = edge.warm(1.0) if warm else 0.0
    return _curve(f"{name}, {'warm' if warm else 'cold'}", f"{which} trip from {'warm' if warm else 'cold'}", "relay",
                  lambda amps: edge.trip_time_s(amps / dial_a, min(theta, 0.999)), currents, which)  # fmt: skip


def _band_curves(band: Band, name: str, kind: CurveKind, currents: list[float], *, thermal: bool) -> list[TimeCurve]:
    found = []
    for which, time, edge_a in (("earliest", band.fast_s, band.lower_a), ("latest", band.slow_s, band.upper_a)):
        corners = (
            x for x in fuse_corners_a(band.device.kind, band.device.rated_current_a) if currents[0] < x < currents[-1]
        )
        xs = sorted({*currents, *corners, *((edge_a * (1 - 1e-9), edge_a) if edge_a else ())})
        if not thermal:  # the thermal part of a motor breaker is drawn as the relay
            xs = [x for x in xs if edge_a and x >= edge_a * (1 - 1e-6)]
        found.append(_curve(name, f"{which} clearing", kind, time, xs, which))
    return [f for f in found if f.current_a]


def _curve(name: str, label: str, kind: CurveKind, time: Callable[[float], float], currents: list[float], edge: str) -> TimeCurve:  # fmt: skip
    points = [(x, time(x)) for x in currents]
    kept = [(x, min(max(t, SHORTEST_S), LONGEST_S)) for x, t in points if t < inf]
    return TimeCurve(name, label, kind, [x for x, _ in kept], [t for _, t in kept], edge)


def _marks(design: Design, built: Built, plate: Plate, relay: Device | None, dial_a: float, band: Band | None, front: Device,
           breaks: float | None, stall: float | None) -> list[Mark]:  # fmt: skip
    """The crossings that matter; each judged as the design judges it."""
    marks: list[Mark] = []
    codes, figures = {f.code: f for f in design.findings}, design.figures
    locked, seconds = plate.locked_rotor.number, built.start.profile.start_s
    if relay:
        edges = relay.trip_edges
        bad = codes.get("trip_class_too_fast") or codes.get("trip_class_likely")
        words = (
            bad.message
            if bad
            else f"The start is over after {as_read(seconds)} s; even the fastest relay of class {relay.settings.trip_class} lets it pass from cold."
        )
        marks.append(
            Mark(
                "start under the relay",
                plate.design.number * 1.02,
                max(seconds, SHORTEST_S),
                "fine" if not bad else "stop" if bad.severity == "stop" else "attention",
                words,
            )
        )
        slow = edges.slow.trip_time_s(locked / dial_a)
        if stall:
            late = slow > stall
            marks.append(Mark("stalled rotor", locked, min(slow, LONGEST_S), "attention" if late else "fine",
                              f"Stalled at {as_read(locked)} A the slowest relay trips {within(slow)}; the locked rotor withstands {stall:g} s."
                              + (" Remedies: thermistors, a faster class, an electronic relay with stall function, another starter." if late else "")))  # fmt: skip
    ico = figures.get("crossover_current_a")
    check = next((x for x in built.coordination.checks if x.name == "crossover"), None)
    if ico and relay and check:
        time = relay.trip_edges.mean.trip_time_s(ico.number / dial_a)
        marks.append(
            Mark(
                "change-over",
                ico.number,
                min(max(time, SHORTEST_S), LONGEST_S),
                "fine" if check.state == "fine" else "attention",
                check.message,
            )
        )
    if band and band.lower_a is not None:
        second = built.start.reclosing_peak
        peak = second if second is not None and second.number > plate.peak.number else plate.peak
        below = band.lower_a < peak.number * (1 - 1e-6)
        marks.append(Mark("peak inrush", peak.number, 0.01, "stop" if below else "fine",
                          f"The peak inrush{' when delta closes' if peak is second else ''} is equivalent to {peak.text} A; {front.designation} trips at once from {as_read(band.lower_a)} A on"
                          + (": it may trip in the start." if below else ", above it.")))  # fmt: skip
    if breaks is not None:
        beyond = ico is not None and ico.number > breaks * (1 + 1e-6)
        words = f"Up to {as_read(breaks)} A the contactor may interrupt; above it only {front.designation} may"
        words += f", but up to {ico.text} A the relay is faster." if ico is not None and beyond else "."
        marks.append(Mark("contactor's limit", breaks, 0.05, "attention" if beyond else "fine", words))
    for name, at_s in (("cable", 0.02), ("selectivity", 0.02)):
        check = next((x for x in built.coordination.checks if x.name == name), None)
        if check and check.state != "unknown":
            figure = figures.get("selectivity_limit_a") if name == "selectivity" else None
            amps = figure.number if figure else built.network.current_a if built.network else locked
            marks.append(Mark(name, amps, at_s, check.state, check.message))
    return marks


def read_at(curve: TimeCurve, current_a: float) -> float | None:
    """Time of a curve at a current, between its points on log-log paper; None where it has none.

    Examples
    --------
    >>> read_at(TimeCurve("x", "x", "device", [10.0, 1000.0], [100.0, 1.0]), 100.0)
    10.0

    References
    ----------
    Straight lines on log-log paper.
    """
    xs, ts = curve.current_a, curve.time_s
    if not xs or not xs[0] <= current_a <= xs[-1]:
        return None
    i = bisect_left(xs, current_a)
    if i == 0 or xs[i] == current_a or xs[i] == xs[i - 1]:
        return ts[i]
    share = log10(current_a / xs[i - 1]) / log10(xs[i] / xs[i - 1])
    return float(ts[i - 1] * (ts[i] / ts[i - 1]) ** share)


def _drawing(curves: list[TimeCurve], limits: list[Limit], marks: list[Mark], low: float, high: float) -> Drawing:
    """The sheet as geometry, for SVG and print."""
    left, top, width, height = 58.0, 20.0, 680.0, 560.0
    decades = log10(LONGEST_S / SHORTEST_S)

    def x(amps: float) -> float:
        return left + width * log10(min(max(amps, low), high) / low) / log10(high / low)

    def y(seconds: float) -> float:
        return top + height * log10(LONGEST_S / min(max(seconds, SHORTEST_S), LONGEST_S)) / decades

    shapes: list[Shape] = [rect(left, top, width, height)]
    for power in range(-2, 5):
        t = 10.0**power
        shapes += [
            line(left, y(t), left + width, y(t), weight="hair", tone="quiet"),
            text(left - 5, y(t) + 4, f"{t:g} s", 10, "end"),
        ]
    for power in range(0, 6):
        for step in (1, 2, 5):
            amps = step * 10.0**power
            if low < amps < high:
                shapes.append(line(x(amps), top, x(amps), top + height, weight="hair", tone="quiet"))
                shapes.append(text(x(amps), top + height + 14, f"{amps:g}", 10))
    shapes.append(text(left + width / 2, top + height + 30, "line current, A", 11))
    for curve in curves:
        points = [p for a, t in zip(curve.current_a, curve.time_s, strict=True) for p in (x(a), y(t))]
        if len(points) >= 4:
            shapes.append(line(*points, weight="heavy" if curve.kind == "start" else "normal", dashed=curve.edge == "latest" or curve.kind in ("withstand", "cable"),
                               tone="accent" if curve.kind in ("relay",) else "ink"))  # fmt: skip
            if curve.edge != "latest":
                shapes.append(
                    text(
                        points[-2] + 3,
                        points[-1] - 3,
                        curve.name,
                        9,
                        "start" if points[-2] < left + width - 90 else "end",
                    )
                )
    for limit in limits:
        shapes += [line(x(limit.current_a), top, x(limit.current_a), top + height, dashed=True, weight="hair"),
                   text(x(limit.current_a) + 3, top + 12, limit.name, 9, "start")]  # fmt: skip
    for i, mark in enumerate(marks, start=1):
        shapes += [circle(x(mark.current_a), y(mark.time_s), 7, filled=True, tone="paper"), circle(x(mark.current_a), y(mark.time_s), 7),
                   text(x(mark.current_a), y(mark.time_s) + 3.5, str(i), 9)]  # fmt: skip
    said = "; ".join(f"{i}: {m.words}" for i, m in enumerate(marks, start=1))
    return Drawing(left + width + 16, top + height + 40, f"Time-current sheet. {said}", shapes)


def points_csv(sheet: TimeCurrentView) -> str:
    """Every point of every curve as CSV text."""
    lines = ["curve,edge,kind,current_a,time_s"]
    for curve in sheet.curves:
        lines += [f'"{curve.name}",{curve.edge},{curve.kind},{a:.6g},{t:.6g}' for a, t in zip(curve.current_a, curve.time_s, strict=True)]  # fmt: skip
    return "\n".join(lines) + "\n"
