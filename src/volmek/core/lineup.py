"""The drawings of one starter: its single-line from supply to motor, terminal links, overload band."""

from dataclasses import dataclass

from volmek.core.devices.device import Device
from volmek.core.document import StarterDocument
from volmek.core.drawing import Drawing, Shape, arc, circle, line, rect, text
from volmek.core.figures import Figure, as_read
from volmek.core.findings import Finding
from volmek.core.plate import Connection, Plate

WIDTH, HEIGHT, AXIS = 72.0, 66.0, 34.0
#: Conductors run on below the frame, so that symbols join whatever height the words beside them need.
BELOW = HEIGHT + 80


@dataclass(frozen=True, slots=True)
class LineUpItem:
    """One device of the single-line.

    Attributes
    ----------
    key : designation, or ``supply`` and ``motor``
    designation, title, rating, setting : what stands beside the symbol
    verdict : ``stop``, ``attention`` or ``fine``
    stage : the stage that opens when it is chosen
    figure : id of the figure whose working it opens
    symbol : its drawing; the conductor runs down the middle of each, so that they join
    """

    key: str
    designation: str
    title: str
    rating: str
    setting: str
    verdict: str
    stage: str
    figure: str
    symbol: Drawing


def _conductor(top: float, bottom: float) -> Shape:
    return line(AXIS, top, AXIS, bottom)


def _thermal(x: float, y: float, size: float) -> Shape:
    """The angular bow of a thermal release."""
    third = size / 3
    return line(x, y, x, y + third, x - third, y + third, x - third, y + 2 * third, x, y + 2 * third, x, y + size)


def _breaker(motor: bool) -> list[Shape]:
    shapes = [
        _conductor(0, 20),
        line(AXIS - 4, 16, AXIS + 4, 24),
        line(AXIS - 4, 24, AXIS + 4, 16),
        line(AXIS, 46, AXIS - 13, 22),
        _conductor(46, BELOW),
    ]
    if motor:
        shapes += [
            line(AXIS - 7, 34, 48, 34, dashed=True, weight="hair"),
            rect(48, 20, 18, 28, weight="hair"),
            line(48, 34, 66, 34, weight="hair"),
            _thermal(59, 21.5, 11),
            text(57, 45, "I>", 9),
        ]
    return shapes


def _breaker_na() -> list[Shape]:
    return [
        _conductor(0, 20),
        arc(AXIS - 9, 33, 16, -55, 55),
        circle(AXIS, 20, 1.6, filled=True),
        circle(AXIS, 46, 1.6, filled=True),
        _conductor(46, BELOW),
    ]


def _fuse() -> list[Shape]:
    return [_conductor(0, BELOW), rect(AXIS - 6, 16, 12, 34)]


def _contactor() -> list[Shape]:
    return [
        _conductor(0, 20),
        arc(AXIS, 16, 4, 90, 270),
        line(AXIS, 46, AXIS - 13, 22),
        _conductor(46, BELOW),
        line(AXIS - 7, 34, 48, 34, dashed=True, weight="hair"),
        rect(48, 28, 20, 12, weight="hair"),
        line(58, 22, 58, 28, weight="hair"),
        line(58, 40, 58, 46, weight="hair"),
    ]


def _contactor_na() -> list[Shape]:
    return [
        _conductor(0, 27),
        line(AXIS - 10, 27, AXIS + 10, 27),
        line(AXIS - 10, 39, AXIS + 10, 39),
        _conductor(39, BELOW),
        line(AXIS + 3, 33, 51, 33, dashed=True, weight="hair"),
        circle(59, 33, 8, weight="hair"),
        text(59, 36.5, "M", 9),
    ]


def _overload() -> list[Shape]:
    return [_conductor(0, 16), rect(AXIS - 13, 16, 22, 34), _thermal(AXIS, 16, 34), _conductor(50, BELOW)]


def _overload_na() -> list[Shape]:
    return [_conductor(0, 20), arc(AXIS, 26.5, 6.5, -90, 90), arc(AXIS, 39.5, 6.5, 90, 270), _conductor(46, BELOW)]


def _cable() -> list[Shape]:
    return [_conductor(0, BELOW), line(AXIS - 6, 38, AXIS + 6, 26), text(AXIS + 10, 30, "3", 9, "start")]


def _supply() -> list[Shape]:
    return [
        line(8, 16, 60, 16, weight="heavy"),
        _conductor(16, BELOW),
        *(line(AXIS - 6, y + 8, AXIS + 6, y) for y in (34, 40, 46)),
    ]


def _motor() -> list[Shape]:
    return [_conductor(0, 12), circle(AXIS, 35, 23), text(AXIS, 35, "M", 15), text(AXIS, 48, "3∼", 11)]


SYMBOLS = {
    "iec": {"contactor": _contactor, "overload_relay": _overload, "motor_conductor": _cable},
    "nec": {"contactor": _contactor_na, "overload_relay": _overload_na, "motor_conductor": _cable},
}


def symbol(kind: str, practice: str) -> list[Shape]:
    """The single-line symbol of a device in the family of its practice (IEC 60617 type, North American type)."""
    if kind in SYMBOLS[practice]:
        return SYMBOLS[practice][kind]()
    if "fuse" in kind:
        return _fuse()
    return _breaker_na() if practice == "nec" else _breaker(kind == "motor_breaker")


def _rating(d: Device) -> str:
    s = d.selected
    if d.kind == "overload_relay" or d.kind == "motor_breaker":
        return f"{s['type']} · {s['range_min_a']:g}–{s['range_max_a']:g} A"
    if d.kind == "motor_conductor":
        return str(s["type"])
    rated = s["rated_current_a"]
    assert isinstance(rated, float)
    return f"{s['type']} · {as_read(rated)} A"


def _setting(d: Device) -> str:
    dial, trip = d.settings.get("dial_a"), d.settings.get("instantaneous_trip_a")
    parts = []
    if isinstance(dial, float) and (d.kind in ("overload_relay", "motor_breaker")):
        parts.append(f"dial {as_read(dial)} A")
    if trip_class := d.settings.get("trip_class"):
        parts.append(f"class {trip_class}")
    if isinstance(trip, float) and d.kind in ("moulded_case_breaker", "instantaneous_trip_breaker"):
        parts.append(f"trip {as_read(trip)} A")
    if d.kind == "contactor" and d.selected.get("coil"):
        parts.append(f"coil {d.selected['coil']}")
    return " · ".join(parts)


def line_up(
    document: StarterDocument, plate: Plate, devices: list[Device], findings: list[Finding], figures: dict[str, Figure]
) -> list[LineUpItem]:
    """The single-line of a starter, from supply to motor."""

    def verdict(key: str, fields: tuple[str, ...] = ()) -> str:
        for f in findings:
            if f.severity != "info" and (
                f.device == key or (f.device is None and f.field.startswith(fields or ("\0",)))
            ):
                return f.severity
        return "fine"

    def drawn(shapes: list[Shape], what: str) -> Drawing:
        return Drawing(WIDTH, HEIGHT, what, shapes)

    prospective = figures.get("prospective_current_ka")
    words = {"delta": "△ delta", "star": "Y star", "plate": ""}[plate.connection]
    power = next(
        (figures[i] for i in ("motor.rated_power_kw", "motor.rated_power_hp", "motor.rated_power_ps") if i in figures),
        None,
    )
    items = [
        LineUpItem(
            "supply",
            "L1 L2 L3",
            "Supply",
            f"{plate.line_voltage_v:g} V {plate.frequency_hz:g} Hz",
            f"Ik {prospective.text} kA" if prospective else "Ik not known",
            verdict("supply", ("supply",)),
            "plate",
            "prospective_current_ka" if prospective else "",
            drawn(_supply(), "Supply busbar, three lines"),
        )
    ]
    items += [
        LineUpItem(
            d.designation,
            d.designation,
            d.label,
            _rating(d),
            _setting(d),
            verdict(d.designation),
            "devices",
            d.figures[0],
            drawn(symbol(d.kind, document.practice), d.label),
        )
        for d in devices
    ]
    rated = f"{power.text} {power.unit} · " if power else ""
    items.append(
        LineUpItem(
            "motor",
            "M1",
            document.service or "Motor",
            f"{rated}{plate.design.text} A",
            words,
            verdict("motor", ("motor", "surroundings", "load")),
            "plate",
            "design_current_a",
            drawn(_motor(), "Three-phase motor"),
        )
    )
    return items


def terminal_links(connection: Connection) -> Drawing | None:
    """The motor's terminal board with its links; None when the plate does not tell."""
    if connection == "plate":
        return None
    xs, top, bottom = (40.0, 100.0, 160.0), 58.0, 108.0
    shapes: list[Shape] = [rect(14, 36, 184, 96, weight="hair")]
    for x, upper, lower, lead in zip(xs, ("U1", "V1", "W1"), ("W2", "U2", "V2"), ("L1", "L2", "L3"), strict=True):
        shapes += [
            line(x, 12, x, top - 6, weight="heavy"),
            text(x, 9, lead, 10),
            text(x + 11, top - 9, upper, 10, "start"),
            text(x + 11, bottom + 18, lower, 10, "start"),
        ]
    links = (
        [(x, top, x, bottom) for x in xs]
        if connection == "delta"
        else [(xs[0], bottom, xs[1], bottom), (xs[1], bottom, xs[2], bottom)]
    )
    shapes += [line(*link, weight="heavy") for link in links]
    shapes += [circle(x, y, 6, filled=True, tone="paper") for x in xs for y in (top, bottom)]
    shapes += [circle(x, y, 6) for x in xs for y in (top, bottom)]
    said = "Delta: links U1 to W2, V1 to U2, W1 to V2" if connection == "delta" else "Star: link joins W2, U2 and V2"
    return Drawing(212, 140, said, shapes)


def overload_band(devices: list[Device], figures: dict[str, Figure]) -> Drawing:
    """Where the overload protection holds, decides and has surely tripped, on a line of motor current."""
    device = next(d for d in devices if f"{d.role}.ultimate_trip_a" in figures)
    role = device.role
    base, dial = figures["permitted_current_a"].number, figures[f"{role}.dial_a"]
    trip = figures[f"{role}.ultimate_trip_a"].number
    limit = figures.get("overload_limit_pct")
    multiple = figures["protection.ultimate_trip_multiple"].number
    in_motor_amperes = trip / multiple
    holds = 1.05 * in_motor_amperes
    top = max(1.7, 1.1 * trip / base)
    low, left, right = 0.7, 16.0, 544.0

    def x(amps: float) -> float:
        return left + (right - left) * min(max((amps / base - low) / (top - low), 0), 1)

    y = 58.0
    shapes: list[Shape] = [
        rect(left, y - 9, x(holds) - left, 18, tone="quiet", weight="hair"),
        text((left + x(holds)) / 2, y + 4, "holds", 11),
        rect(x(holds), y - 9, max(x(trip) - x(holds), 1), 18, filled=True, tone="quiet"),
        rect(x(holds), y - 9, max(x(trip) - x(holds), 1), 18, weight="hair"),
        rect(x(trip), y - 9, right - x(trip), 18, tone="quiet", weight="hair"),
        text((x(trip) + right) / 2, y + 4, "trips", 11),
        line(x(base), 28, x(base), y + 22, weight="heavy"),
        text(x(base), 22, f"motor {as_read(base)} A", 11),
        text(x(holds), y + 24, f"{as_read(holds)} A", 10),
        line(x(in_motor_amperes), y + 9, x(in_motor_amperes), y + 32, weight="hair"),
        text(x(in_motor_amperes), y + 43, f"dial {dial.text} A", 11),
        text(
            x(trip) + 4,
            y + 24,
            f"{as_read(trip)} A = {100 * trip / base:.0f} %",
            10,
            "start" if x(trip) < right - 110 else "end",
        ),
    ]
    if limit:
        at = base * limit.number / 100
        shapes += [
            line(x(at), 34, x(at), y + 14, tone="stop", dashed=True),
            text(x(at) + 4, 34, f"limit {limit.text} %", 10, "start", "stop"),
        ]
    described = (
        f"Motor {as_read(base)} A, dial {dial.text} A: holds up to {as_read(holds)} A, has tripped at {as_read(trip)} A, "
        f"{100 * trip / base:.0f} % of the motor current"
    ) + (f"; {limit.text} % is allowed" if limit else "")
    return Drawing(560, 104, described, shapes)
