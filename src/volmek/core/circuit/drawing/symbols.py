"""Symbols of control circuits: IEC 60617 type for columns, North American type for ladder rungs."""

from typing import Literal

from volmek.core.circuit.model.netlist import Contact, makes_at_rest
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


def contact_iec(x: float, y: float, contact: Contact, kind: str) -> list[Form]:
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
        forms += [(s, "") for s in _actuator(x, mid, hinge, kind)]
    if kind in ("timer", "star_delta_timer"):
        forms.append((arc(x - 13, mid, 4, 90, 270), ""))
    return forms


def _actuator(x: float, y: float, hinge: float, kind: str) -> list[Shape]:
    """Actuator of a contact, to the left of its blade."""
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
    if kind == "field":
        return [link, line(at, y - 5, at + 5, y, at, y + 5, at, y - 5, weight="hair")]
    if kind in ("monitor", "soft_starter"):
        return [link, rect(at - 6, y - 5, 8, 10, weight="hair")]
    return [link]


def load_iec(x: float, y: float, name: str, kind: str) -> list[Shape]:
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
    del name
    return shapes


def contact_na(x: float, y: float, contact: Contact, kind: str) -> list[Form]:
    a, b = x + 33, x + 51
    ends: list[Form] = [(line(x + 30, y, a, y), ""), (line(b, y, x + 54, y), "")]
    make = makes_at_rest(contact)
    if kind in ("button", "emergency_stop"):
        up, down = (y - 8, y) if make else (y + 8, y + 2.5)
        cap = y - 13
        forms = [*ends, (circle(a, y, 1.8), ""), (circle(b, y, 1.8), ""), (line(a - 2, up, b + 2, up), "open"), (line(a - 2, down, b + 2, down), "closed"),
                 (line(x + 42, cap, x + 42, up), "open"), (line(x + 42, cap, x + 42, down), "closed")]  # fmt: skip
        if kind == "emergency_stop":
            forms.append((line(x + 36, cap, x + 48, cap, weight="heavy"), ""))
        return forms
    gap_a, gap_b = x + 38, x + 46
    forms = [(line(x + 30, y, gap_a, y), ""), (line(gap_b, y, x + 54, y), ""), (line(gap_a, y - 9, gap_a, y + 9), ""), (line(gap_b, y - 9, gap_b, y + 9), ""),
             (line(gap_a, y, gap_b, y), "closed")]  # fmt: skip
    if not make:
        forms.append((line(gap_a - 3, y + 8, gap_b + 3, y - 8), ""))
    mark = {
        "overload": "OL",
        "timer": "TR",
        "star_delta_timer": "TR",
        "selector": "SS",
        "field": "FS",
        "monitor": "PM",
        "soft_starter": "SCR",
    }.get(kind)
    if mark:
        forms.append((text(x + 42, y + 20, mark, 9), ""))
    return forms


def load_na(x: float, y: float, name: str, kind: str) -> list[Shape]:
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
    del name
    return [*shapes, text(m, y + 3.5, word, 9)]
