"""The symbols of single-lines and terminal boards: each drawn once, and named, so that a design only says which."""

from functools import cache

from volmek.core.installation.connection import LEADS
from volmek.core.results.drawing import Drawing, Shape, arc, circle, line, rect, text

WIDTH, HEIGHT, AXIS = 72.0, 66.0, 34.0


#: Conductors run on below the frame, so that symbols join whatever height the words beside them need.
BELOW = HEIGHT + 80


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
            text(57, 45, "I>", 11),
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
        text(59, 36.5, "M", 11),
    ]


def _overload() -> list[Shape]:
    return [_conductor(0, 16), rect(AXIS - 13, 16, 22, 34), _thermal(AXIS, 16, 34), _conductor(50, BELOW)]


def _overload_na() -> list[Shape]:
    return [_conductor(0, 20), arc(AXIS, 26.5, 6.5, -90, 90), arc(AXIS, 39.5, 6.5, 90, 270), _conductor(46, BELOW)]


def _cable(lines: int) -> list[Shape]:
    return [_conductor(0, BELOW), line(AXIS - 6, 38, AXIS + 6, 26), text(AXIS + 10, 30, str(lines), 11, "start")]


def _supply(lines: int = 3) -> list[Shape]:
    return [
        line(8, 16, 60, 16, weight="heavy"),
        _conductor(16, BELOW),
        *(line(AXIS - 6, y + 8, AXIS + 6, y) for y in (34, 40, 46)[:lines]),
    ]


def _motor(phases: str) -> list[Shape]:
    return [_conductor(0, 12), circle(AXIS, 35, 23), text(AXIS, 35, "M", 15), text(AXIS, 48, f"{phases}∼", 11)]


def _branch(contact: list[Shape]) -> list[Shape]:
    """A contactor on a branch of the line."""
    return [_conductor(0, BELOW), circle(AXIS, 12, 1.8, filled=True), line(AXIS, 12, 56, 12, 56, 22), *contact, line(56, 44, 56, 48),
            circle(56, 50, 2)]  # fmt: skip


def _small_contact() -> list[Shape]:
    return [arc(56, 18.5, 3.5, 90, 270), line(56, 44, 46, 24)]


def _small_contact_na() -> list[Shape]:
    return [line(49, 28, 63, 28), line(49, 38, 63, 38), line(56, 22, 56, 28), line(56, 38, 56, 44)]


def _timer() -> list[Shape]:
    return [
        _conductor(0, BELOW),
        rect(48, 22, 18, 24, weight="hair"),
        line(48, 22, 66, 46, weight="hair"),
        line(48, 46, 66, 22, weight="hair"),
    ]


def _transformer() -> list[Shape]:
    """A control transformer beside the line: two windings."""
    return [_conductor(0, BELOW), circle(AXIS, 14, 1.8, filled=True), line(AXIS, 14, 57, 14, 57, 20),
            circle(57, 27, 7.5, weight="hair"), circle(57, 38, 7.5, weight="hair"), line(57, 45.5, 57, 52)]  # fmt: skip


def _beside(shapes: list[Shape]) -> list[Shape]:
    """A device on a branch of the line."""
    return [
        _conductor(0, BELOW),
        circle(AXIS, 12, 1.8, filled=True),
        line(AXIS, 12, 57, 12, 57, 20),
        *shapes,
        line(57, 46, 57, 52),
    ]


def _control_breaker() -> list[Shape]:
    return [_conductor(0, BELOW), line(57, 12, 57, 24), line(54, 21, 60, 27, weight="hair"), line(54, 27, 60, 21, weight="hair"),
            line(57, 46, 47, 26), line(57, 46, 57, 51)]  # fmt: skip


def _control_fuse() -> list[Shape]:
    return [_conductor(0, BELOW), line(57, 10, 57, 51), rect(52.5, 18, 9, 24)]


def _soft_starter() -> list[Shape]:
    """A box with two thyristors, one against the other."""
    return [_conductor(0, 16), rect(AXIS - 15, 16, 30, 34), _conductor(50, BELOW), line(AXIS - 8, 24, AXIS - 2, 24, AXIS - 5, 30, AXIS - 8, 24),
            line(AXIS - 8, 30, AXIS - 2, 30), line(AXIS + 2, 30, AXIS + 8, 30, AXIS + 5, 24, AXIS + 2, 30), line(AXIS + 2, 24, AXIS + 8, 24),
            line(AXIS - 10, 46, AXIS + 10, 38, weight="hair")]  # fmt: skip


def _monitor() -> list[Shape]:
    """A phase monitor: a box that watches the line's voltage."""
    return [_conductor(0, BELOW), circle(AXIS, 16, 1.8, filled=True), line(AXIS, 16, 57, 16, 57, 22, weight="hair"),
            rect(46, 22, 22, 24, weight="hair"), text(57, 38, "U<", 11)]  # fmt: skip


def _links(connection: str) -> Drawing:
    """The motor's terminal board with its links."""
    xs, top, bottom = (40.0, 100.0, 160.0), 58.0, 108.0
    shapes: list[Shape] = [rect(14, 36, 184, 96, weight="hair")]
    for x, upper, lower, lead in zip(xs, ("U1", "V1", "W1"), ("W2", "U2", "V2"), ("L1", "L2", "L3"), strict=True):
        shapes += [
            line(x, 12, x, top - 6, weight="heavy"),
            text(x, 9, lead, 11),
            text(x + 11, top - 9, upper, 11, "start"),
            text(x + 11, bottom + 18, lower, 11, "start"),
        ]
    links: list[tuple[float, float, float, float]] = {
        "delta": [(x, top, x, bottom) for x in xs],
        "star": [(xs[0], bottom, xs[1], bottom), (xs[1], bottom, xs[2], bottom)],
    }.get(connection, [])
    if connection == "out":  # six leads, and nothing between them
        for x in xs:
            shapes.append(line(x, bottom + 6, x, 140, weight="heavy"))
        shapes.append(text(106, 87, "links out", 11))
    shapes += [line(*link, weight="heavy") for link in links]
    shapes += [circle(x, y, 6, filled=True, tone="paper") for x in xs for y in (top, bottom)]
    shapes += [circle(x, y, 6) for x in xs for y in (top, bottom)]
    said = {
        "delta": "Delta: links U1 to W2, V1 to U2, W1 to V2", "star": "Star: link joins W2, U2 and V2",
        "out": "All links out: six leads go to the starter, whose contactors join them",
    }[connection]  # fmt: skip
    return Drawing(212, 142, said, shapes)


def _lead_group(x: float, y: float, leads: list[str]) -> list[Shape]:
    """Leads side by side on one link, from x on."""
    step = 17.0
    shapes: list[Shape] = [line(x, y, x + step * (len(leads) - 1), y, weight="heavy")] if len(leads) > 1 else []
    for i, lead in enumerate(leads):
        shapes += [circle(x + i * step, y, 7.5, filled=True, tone="paper"), circle(x + i * step, y, 7.5),
                   text(x + i * step, y + 3.3, lead, 11)]  # fmt: skip
    return shapes


def _leads(key: str) -> Drawing:
    """Leads of nine or twelve that go to each line, and those that are joined."""
    lines, joined = LEADS[key]
    shapes: list[Shape] = []
    left = 16.0
    for name, group in zip(("L1", "L2", "L3"), lines, strict=True):
        leads = group.split()
        middle = left + 17.0 * (len(leads) - 1) / 2
        shapes += [
            text(middle, 12, name, 11),
            line(middle, 17, middle, 40, weight="heavy"),
            *_lead_group(left, 40, leads),
        ]
        left += max(17.0 * len(leads), 30.0) + 8
    width = left
    left = 16.0
    if joined:
        shapes.append(text(8, 78, "joined to each other", 11, "start", "quiet"))
    for group in joined:
        leads = group.split()
        shapes += _lead_group(left, 96, leads)
        left += 17.0 * len(leads) + 12
    number, wound, how = key.split(".")
    said = ", ".join(
        f"{n} on {' '.join('T' + t for t in g.split())}" for n, g in zip(("L1", "L2", "L3"), lines, strict=True)
    )
    more = "; joined: " + ", ".join(" ".join("T" + t for t in g.split()) for g in joined) if joined else ""
    return Drawing(max(width, left, 212), 112, f"{number} leads, {wound}, windings in {how}: {said}{more}", shapes)


def _loop() -> Drawing:
    """The three poles of an overload relay in series: L, motor, and the neutral."""
    xs = (50.0, 106.0, 162.0)
    shapes: list[Shape] = [rect(26, 42, 160, 56, weight="hair"), text(14, 74, "F1", 11)]
    for x, odd, even in zip(xs, ("1", "3", "5"), ("2", "4", "6"), strict=True):
        shapes += [
            line(x, 30, x, 56),
            rect(x - 8, 56, 16, 28),
            line(x, 84, x, 110),
            text(x + 6, 40, odd, 11, "start"),
            text(x + 6, 108, even, 11, "start"),
        ]
    shapes += [line(xs[0], 10, xs[0], 30, weight="heavy"), text(xs[0] - 8, 16, "L", 11, "end"),
               line(xs[0], 110, xs[0], 118, 78, 118, 78, 22, xs[1], 22, xs[1], 30, weight="heavy"),
               line(xs[1], 110, xs[1], 130, weight="heavy"), text(xs[1] - 8, 128, "to M", 11, "end"),
               line(xs[2], 10, xs[2], 30, weight="heavy"), text(xs[2] - 8, 16, "N", 11, "end"),
               line(xs[2], 110, xs[2], 130, weight="heavy"), text(xs[2] - 8, 128, "to M", 11, "end")]  # fmt: skip
    return Drawing(
        212,
        140,
        "One current through all three poles: L through 1-2, back through 3-4 to the motor, neutral through 5-6",
        shapes,
    )


@cache
def symbols() -> dict[str, Drawing]:
    """Every symbol by its name. Conductors run down the middle, so that symbols set below each other join."""
    single_line: dict[str, tuple[str, list[Shape]]] = {
        "supply": ("Supply busbar, three lines", _supply()),
        "supply.1": ("Supply, line and neutral", _supply(2)),
        "motor": ("Three-phase motor", _motor("3")),
        "motor.1": ("Single-phase motor", _motor("1")),
        "motor.slip_ring": (
            "Slip-ring motor",
            [*_motor("3"), circle(AXIS, 35, 19, weight="hair"), _conductor(58, BELOW)],
        ),
        "fuse": ("Fuse", _fuse()),
        "cable.2": ("Conductors, line and neutral", _cable(2)),
        "cable.3": ("Conductors, three", _cable(3)),
        "cable.6": ("Conductors, six", _cable(6)),
        "iec.breaker": ("Circuit-breaker", _breaker(motor=False)),
        "iec.motor_breaker": ("Motor breaker", _breaker(motor=True)),
        "timer": ("Time relay", _timer()),
        "soft_starter": ("Soft starter", _soft_starter()),
        "control_transformer": ("Control transformer", _transformer()),
        "power_unit": ("DC power unit", _transformer()),
        "autotransformer": ("Autotransformer", _transformer()),
        "resistor": ("Resistors", _beside([rect(52, 20, 10, 26)])),
        "capacitor": (
            "Capacitor",
            _beside([line(49, 30, 65, 30), line(49, 35, 65, 35), line(57, 20, 57, 30), line(57, 35, 57, 46)]),
        ),
        "control_breaker": ("Control breaker", _control_breaker()),
        "control_fuse": ("Control fuse", _control_fuse()),
        "phase_monitor": ("Phase monitor", _monitor()),
        "iec.contactor": ("Contactor", _contactor()),
        "iec.contactor_branch": ("Contactor beside the line", _branch(_small_contact())),
        "nec.contactor_branch": ("Contactor beside the line", _branch(_small_contact_na())),
        "iec.overload_relay": ("Overload relay", _overload()),
        "nec.breaker": ("Circuit-breaker", _breaker_na()),
        "nec.contactor": ("Contactor", _contactor_na()),
        "nec.overload_relay": ("Overload relay", _overload_na()),
    }
    drawings = {name: Drawing(WIDTH, HEIGHT, said, shapes) for name, (said, shapes) in single_line.items()}
    return {
        **drawings,
        "links.loop": _loop(),
        "links.delta": _links("delta"),
        "links.star": _links("star"),
        "links.out": _links("out"),
        **{f"links.{k}": _leads(k) for k in LEADS},
    }


def symbol_of(kind: str, practice: str, *, branch: bool = False, conductors: object = 3) -> str:
    """Name of the symbol of a device, in the family of its practice (IEC 60617 type, North American type).

    Examples
    --------
    >>> symbol_of("contactor", "nec"), symbol_of("fuse_gg", "iec"), symbol_of("miniature_breaker_c", "iec")
    ('nec.contactor', 'fuse', 'iec.breaker')
    """
    if kind in symbols():
        return kind
    if "fuse" in kind:
        return "fuse"
    if kind == "motor_conductor":
        return f"cable.{conductors}"
    if branch:
        return f"{practice}.contactor_branch"
    return f"{practice}.{kind}" if f"{practice}.{kind}" in symbols() else f"{practice}.breaker"
