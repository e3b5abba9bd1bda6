"""Symbols of control circuits: IEC 60617 type for columns, North American type for ladder rungs."""

from typing import Literal

from volmek.core.circuit.model.netlist import Contact, Device, makes_at_rest
from volmek.core.results.drawing import Shape, arc, circle, line, rect, text


def cross(x: float, y: float) -> list[Shape]:
    """The cross of a breaker."""
    return [line(x - 3, y - 3, x + 3, y + 3, weight="hair"), line(x - 3, y + 3, x + 3, y - 3, weight="hair")]


CROSSED = ("contactor", "relay", "timer", "star_delta_timer")
ACTUATED = (
    "button",
    "emergency_stop",
    "selector",
    "overload",
    "timer",
    "star_delta_timer",
    "field",
    "monitor",
    "soft_starter",
)
Form = tuple[Shape, Literal["", "open", "closed"]]


#: What stands in the box of a contact that a quantity moves, by the form of its device.
QUANTITY = {"pressure": "p", "thermostat": "θ", "centrifugal": "n", "current_relay": "I", "potential_relay": "U"}


def contact_iec(x: float, y: float, contact: Contact, device: Device) -> list[Form]:
    """A contact, 18 high, 20 below its upper terminal.

    References
    ----------
    IEC 60617 (S00227 and following, with their actuators).
    """
    kind = device.kind
    top, low = y + 20, y + 38
    forms: list[Form] = []
    if makes_at_rest(contact):
        forms += [(line(x, low, x - 9, top + 1), "open"), (line(x, low, x - 1, top), "closed")]
        hinge = x - 5
    else:
        forms += [
            (line(x, top, x + 9, top), ""),
            (line(x, low, x + 7, top - 2), "closed"),
            (line(x, low, x + 14, top + 5), "open"),
        ]
        hinge = x + 3
    mid = y + 29
    if kind in ACTUATED:
        forms += [(s, "") for s in _actuator(x, mid, hinge, device)]
    if kind in ("timer", "star_delta_timer"):
        forms.append((arc(x - 13, mid, 4, 90, 270), ""))
    return forms


def _actuator(x: float, y: float, hinge: float, device: Device) -> list[Shape]:
    """Actuator of a contact, to the left of its blade."""
    kind = device.kind
    link = line(x - 20, y, hinge, y, dashed=True, weight="hair")
    at = x - 20
    if kind == "button":
        return [link, line(at + 4, y - 5, at, y - 5, at, y + 5, at + 4, y + 5, weight="hair")]
    if kind == "emergency_stop":
        return [link, line(at, y - 6, at, y + 6, weight="hair"), arc(at, y, 6, 90, 270)]
    if kind == "selector":
        return [link, line(at, y - 5, at, y, weight="hair"), line(at, y, at, y + 5, weight="hair"), line(at, y - 5, at + 4, y - 5, weight="hair"),
                line(at - 4, y + 5, at, y + 5, weight="hair")]  # fmt: skip
    if kind == "overload":
        return [link, rect(at - 5, y - 6, 8, 12, weight="hair"), line(at - 1, y - 4, at - 1, y - 1, at - 3, y - 1, at - 3, y + 2, at - 1, y + 2, at - 1, y + 4, weight="hair")]  # fmt: skip
    if device.form in QUANTITY:
        link = line(at + 4, y, hinge, y, dashed=True, weight="hair")
        return [link, rect(at - 6, y - 6, 10, 12, weight="hair"), text(at - 1, y + 3, QUANTITY[device.form], 9)]
    if device.form in ("float_fill", "float_drain"):
        return [link, circle(at - 2, y - 3, 3.5, weight="hair"), line(at - 8, y + 3, at + 4, y + 3, weight="hair")]
    if kind == "field":
        return [link, line(at, y - 5, at + 5, y, at, y + 5, at, y - 5, weight="hair")]
    if kind in ("monitor", "soft_starter"):
        return [link, rect(at - 6, y - 5, 8, 10, weight="hair")]
    return [link]


def load_iec(x: float, y: float, kind: str) -> list[Shape]:
    """A coil, lamp, buzzer or heater, 18 high, 20 below its upper terminal."""
    top = y + 20
    if kind == "lamp":
        r = 9.0
        d = r * 0.707
        return [
            circle(x, y + 29, r),
            line(x - d, y + 29 - d, x + d, y + 29 + d, weight="hair"),
            line(x - d, y + 29 + d, x + d, y + 29 - d, weight="hair"),
        ]
    if kind == "buzzer":
        return [
            arc(x, y + 34, 11, 180, 360),
            line(x - 11, y + 34, x + 11, y + 34),
            line(x, y + 34, x, y + 38),
            line(x, y + 20, x, y + 23),
        ]
    shapes = [rect(x - 12, top, 24, 18)]
    if kind in ("timer", "star_delta_timer"):
        shapes += [
            rect(x - 21, top, 9, 18),
            line(x - 21, top, x - 12, top + 18, weight="hair"),
            line(x - 21, top + 18, x - 12, top, weight="hair"),
        ]
    if kind == "heater":
        shapes += [line(x - 12, top + 4.5 * i, x + 12, top + 4.5 * i, weight="hair") for i in (1, 2, 3)]
    if kind == "soft_starter":
        shapes.append(text(x, top + 13, "run", 9))
    return shapes


def breaker_na(x: float, y: float, *, down: bool = True) -> list[Form]:
    """One pole of a circuit-breaker, 20 long: the bow over the gap, raised while it is open.

    References
    ----------
    NEMA ICS 19; IEEE 315, 11.3.
    """
    forms: list[Form] = []
    for lift, when in ((5.0, "open"), (0.0, "closed")):
        bow: list[float] = []
        for k in range(9):
            along, off = 2.5 * k, lift + 6 * (1 - ((k - 4) / 4) ** 2)
            bow += [x - off, y + along] if down else [x + along, y - off]
        forms.append((line(*bow), "open" if when == "open" else "closed"))
    ends = ((x, y), (x, y + 20)) if down else ((x, y), (x + 20, y))
    return [*forms, *((circle(*at, 1.6, filled=True), "") for at in ends)]


def heater_na(x: float, y: float) -> list[Form]:
    """The heater of an overload relay, 20 high: two bows that face each other.

    References
    ----------
    NEMA ICS 19; IEEE 315, 9.2.
    """
    return [(arc(x, y + 5, 5, -90, 90), ""), (arc(x, y + 15, 5, 90, 270), "")]


def contact_na(x: float, y: float, contact: Contact, device: Device) -> list[Form]:
    """A contact of a ladder rung, 24 wide, 30 right of its left terminal.

    References
    ----------
    NEMA ICS 19; NFPA 79, annex on symbols.
    """
    kind, a, b = device.kind, x + 33, x + 51
    ends: list[Form] = [(line(x + 30, y, a, y), ""), (line(b, y, x + 54, y), "")]
    make = makes_at_rest(contact)
    if kind in ("button", "emergency_stop"):
        up, down = (y - 8, y) if make else (y + 8, y + 2.5)
        cap = y - 13
        forms = [*ends, (circle(a, y, 1.8), ""), (circle(b, y, 1.8), ""), (line(a - 2, up, b + 2, up), "open"), (line(a - 2, down, b + 2, down), "closed"),
                 (line(x + 42, cap, x + 42, up), "open"), (line(x + 42, cap, x + 42, down), "closed")]  # fmt: skip
        if kind == "emergency_stop":
            forms += [(arc(x + 42, cap + 5, 5, 180, 360), ""), (line(x + 37, cap + 5, x + 47, cap + 5), "")]
        return forms
    if kind in ("timer", "star_delta_timer", "field", "selector"):
        return [*ends, (circle(a, y, 1.8), ""), (circle(b, y, 1.8), ""), *_blade_na(x, y, device, contact, make=make)]
    gap_a, gap_b = x + 38, x + 46
    forms = [(line(x + 30, y, gap_a, y), ""), (line(gap_b, y, x + 54, y), ""), (line(gap_a, y - 9, gap_a, y + 9), ""), (line(gap_b, y - 9, gap_b, y + 9), ""),
             (line(gap_a, y, gap_b, y), "closed")]  # fmt: skip
    if not make:
        forms.append((line(gap_a - 3, y + 8, gap_b + 3, y - 8), ""))
    mark = {"overload": "OL", "monitor": "PM", "soft_starter": "SCR"}.get(kind)
    if mark:
        forms.append((text(x + 42, y + 20, mark, 9), ""))
    return forms


def _blade_na(x: float, y: float, device: Device, contact: Contact, *, make: bool) -> list[Form]:
    """A blade between two points, and under it what moves it."""
    a, b, m = x + 33, x + 51, x + 42
    off = 8.0 if make else -8.0
    forms: list[Form] = [(line(a, y, b, y + off), "open"), (line(a, y, b, y + (1.5 if make else -1.5)), "closed")]
    if device.kind == "selector":
        marks = " ".join("X" if k in contact.closed_in else "O" for k in range(len(device.positions)))
        return [*forms, (text(m, y + 20, marks, 9), "")]
    stem = y + 15
    forms.append((line(m, y + (4 if make else 0), m, stem, weight="hair"), ""))
    if device.kind in ("timer", "star_delta_timer"):  # on-delay: the arrow-head points to the contact
        return [*forms, (line(m - 4, stem + 3, m, stem - 3, m + 4, stem + 3, weight="hair"), "")]
    if device.form in ("float_fill", "float_drain"):
        return [*forms, (circle(m, stem + 3, 3), "")]
    if device.form == "pressure":
        return [
            *forms,
            (arc(m, stem + 4, 4, 180, 360), ""),
            (line(m - 4, stem + 4, m + 4, stem + 4, weight="hair"), ""),
        ]
    if device.form == "thermostat":
        return [*forms, (line(m, stem, m + 4, stem, m + 4, stem + 3, m, stem + 3, m, stem + 6, weight="hair"), "")]
    if device.form in QUANTITY:
        return [*forms, (text(m, stem + 8, QUANTITY[device.form], 9), "")]
    return [*forms, (line(m - 4, stem, m + 4, stem, m, stem + 5, m - 4, stem, weight="hair"), "")]


def load_na(x: float, y: float, kind: str) -> list[Shape]:
    """A coil, lamp, buzzer or heater of a rung, 24 wide, 30 right of its left terminal."""
    m = x + 42
    shapes: list[Shape] = [circle(m, y, 12)]
    if kind == "lamp":
        shapes = [circle(m, y, 9)] + [
            line(m + 9 * a, y + 9 * b, m + 12 * a, y + 12 * b, weight="hair")
            for a, b in ((0.7, 0.7), (-0.7, 0.7), (0.7, -0.7), (-0.7, -0.7))
        ]
        return [line(x + 30, y, m - 9, y), line(m + 9, y, x + 54, y), *shapes]
    if kind == "heater":
        return [rect(x + 30, y - 8, 24, 16), text(m, y + 3, "HTR", 9)]
    if kind == "buzzer":
        return [
            line(x + 30, y, m - 9, y),
            line(m + 9, y, x + 54, y),
            arc(m, y + 4, 9, 180, 360),
            line(m - 9, y + 4, m + 9, y + 4),
        ]
    word = (
        "TR"
        if kind in ("timer", "star_delta_timer")
        else "SCR"
        if kind == "soft_starter"
        else "CR"
        if kind == "relay"
        else "M"
    )
    return [*shapes, text(m, y + 3.5, word, 9)]
