"""Overload protection: the dial and its two schools, the range, the trip class, the restart."""

from collections.abc import Sequence
from dataclasses import replace

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.catalogue.device_types import OverloadRelay
from volmek.core.context import Context
from volmek.core.devices.device import Check, Device, Objection, Required, Selected, override_marks, pick
from volmek.core.devices.dial import Dial
from volmek.core.devices.electronic import relay_functions
from volmek.core.devices.part import RelayPart
from volmek.core.devices.trip_class import CLASS_ORDER, choose_class
from volmek.core.physics.profile import Profile
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure

OUTER_SHARE = 0.05
THROUGH_TRANSFORMERS = "Feed the relay through current transformers, or add a larger range to your catalogue."


def holds(low: float, high: float, dial_a: float) -> bool:
    """A setting is inside a range, ends included.

    Parameters
    ----------
    low, high : ends of the span [A]
    dial_a : the dial figure [A]

    Examples
    --------
    >>> holds(13.0, 18.0, 18.0), holds(13.0, 18.0, 18.1)
    (True, False)
    """
    return low * (1 - 1e-9) <= dial_a <= high * (1 + 1e-9)


def outer(low: float, high: float, dial_a: float) -> bool:
    """A setting is in the outer 5 % of a range.

    Parameters
    ----------
    low, high : ends of the span [A]
    dial_a : the dial figure [A]

    Examples
    --------
    >>> outer(10.0, 20.0, 10.4), outer(10.0, 20.0, 15.0)
    (True, False)
    """
    edge = OUTER_SHARE * (high - low)
    return dial_a < low + edge or dial_a > high - edge


def span_check(role: str, dial: Dial) -> Check[OverloadRelay]:
    """The relay's range holds the dial figure.

    Parameters
    ----------
    role : of the relay
    dial : its setting

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> d = example_device("F1", protection={"device": "fuse_am"})
    >>> d.selected.range_min_a <= d.settings.dial_a <= d.selected.range_max_a
    True
    """

    amps = dial.used.number

    def check(r: OverloadRelay) -> Objection | None:
        if holds(r.range_min_a, r.range_max_a, amps):
            return None
        return Objection(
            "dial_outside_range",
            f"{r.type} is marked {r.range_min_a:g} to {r.range_max_a:g} A; {dial.used.text} A is needed",
            f"overrides.{role}",
        )

    return check


def check_reset(c: Context, designation: str) -> None:
    """Automatic reset with a maintained contact restarts the motor by itself.

    Parameters
    ----------
    c : inputs and log of the sizing
    designation : of the overload protection

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [f.severity for f in example(protection={"device": "fuse_am", "reset": "automatic"}, control={"scheme": "two_wire"}).design.findings if f.code == "automatic_reset"]
    ['stop']

    References
    ----------
    IEC 60204-1, 7.5.
    """
    d = c.document
    if d.protection.reset == "automatic" and d.control.scheme in ("two_wire", "hand_off_auto"):
        c.find(
            "stop",
            "automatic_reset",
            "Automatic reset with a maintained contact: after a trip the motor restarts by itself as soon as "
            "the relay has cooled.",
            "protection.reset",
            device=designation,
        )


def check_duty(c: Context) -> None:
    """Duties that a relay cannot follow, and more starts than the motor is allowed.

    Parameters
    ----------
    c : inputs and log of the sizing

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [f.field for f in example(load={"duty_type": "s3"}).design.findings if f.code == "thermistors_asked_for"]
    ['motor.thermistors']

    References
    ----------
    IEC 60034-1, 4.2.
    """
    m, load = c.document.motor, c.document.load
    if load.duty_type not in (None, "s1") and not m.thermistors:
        c.find(
            "attention",
            "thermistors_asked_for",
            f"In duty {load.duty_type.upper()} the motor's heat does not follow the current that a relay sees; thermistors in the winding do.",
            "motor.thermistors",
        )
    if m.permitted_starts_per_hour and load.starts_per_hour and load.starts_per_hour > m.permitted_starts_per_hour:
        c.find(
            "attention",
            "starts_above_motor",
            f"{load.starts_per_hour:g} starts an hour are more than the {m.permitted_starts_per_hour:g} that the motor is allowed.",
            "load.starts_per_hour",
        )


def around(relays: Sequence[OverloadRelay], holding: Sequence[OverloadRelay]) -> list[OverloadRelay]:
    """The relays whose range holds the dial figure with their neighbours, in the catalogue's order.

    Parameters
    ----------
    relays : all, in the order of the catalogue
    holding : those whose range holds the dial figure

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> relays = example_plate()[0].catalogue.overload_relays
    >>> len(around(relays, relays[5:6]))
    7
    """
    places = {id(r): i for i, r in enumerate(relays)}
    near = {i for r in holding for i in range(places[id(r)] - 3, places[id(r)] + 4)}
    return [relays[i] for i in sorted(near) if 0 <= i < len(relays)]


def select_relay(
    c: Context, plate: Plate, part: RelayPart, dial: Dial, frame: str, start: Figure, profile: Profile
) -> Device:
    """The overload relay: class, range, mounting, setting.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    part : where the relay lies
    dial : its setting
    frame : of the contactor that it may mount on
    start : length of the start
    profile : the start that must pass

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("F1", protection={"device": "fuse_am"}).settings.trip_class
    '10'

    References
    ----------
    IEC 60947-4-1, Tables 2 and 3.
    """
    d, w = c.document, c.working
    role, designation = part.role, part.designation
    override = d.override(role)
    relays = c.catalogue.overload_relays or reference_catalogue().overload_relays
    holding = [r for r in relays if holds(r.range_min_a, r.range_max_a, dial.used.number)]
    chosen = override.device_type if override else None
    chosen_relay = next((r for r in relays if r.type == chosen), None)
    said, above = c, dial.used.number > max((r.range_max_a for r in relays), default=0.0)
    if not holding and chosen_relay is None:
        holding = sorted(relays, key=lambda r: max(r.range_min_a / dial.used.number, dial.used.number / r.range_max_a))[
            :1
        ]
        c = c.quiet()
    offered = (
        chosen_relay.classes if chosen_relay else sorted({k for r in holding for k in r.classes}, key=CLASS_ORDER.index)
    )
    if override and override.trip_class and override.trip_class not in offered:
        own = override.trip_class
        c.find("stop", "choice_not_in_catalogue", f"No relay for {dial.used.text} A comes in class {own}; {', '.join(offered)} is available.",
               f"overrides.{role}", device=designation)  # fmt: skip
    choice = choose_class(c, plate, dial, offered, role, designation, "load.start_time_s", start, profile)

    def in_class(r: OverloadRelay) -> Objection | None:
        if choice.trip_class in r.classes:
            return None
        return Objection(
            "relay_class",
            f"{r.type} comes in class {', '.join(r.classes)}; class {choice.trip_class} is needed",
            f"overrides.{role}",
        )

    dial_a = dial.used.number
    inner_exists = any(
        choice.trip_class in r.classes and not outer(r.range_min_a, r.range_max_a, dial.used.number) for r in holding
    )

    def not_outer(r: OverloadRelay) -> Objection | None:
        if inner_exists and outer(r.range_min_a, r.range_max_a, dial_a):
            return Objection(
                "dial_at_end",
                f"{dial.used.text} A lies in the outer 5 % of {r.type} ({r.range_min_a:g} to {r.range_max_a:g} A)",
                f"overrides.{role}",
                severity="attention",
            )
        return None

    checks: list[Check[OverloadRelay]] = [span_check(role, dial), in_class, not_outer]
    r, candidates, lacking = pick(
        said,
        role,
        designation,
        around(relays, holding) if said is c else holding,
        checks,
        what="overload relay",
        field=f"overrides.{role}" if override and override.dial_a else "protection.current_transformer_ratio",
        every=relays,
        remedy=(lambda: THROUGH_TRANSFORMERS) if above else None,
        absent=not c.catalogue.overload_relays,
    )
    if lacking:
        c = c.quiet()
    mounted = frame in r.mounts_on
    if not mounted:
        c.find(
            "info",
            "separate_base",
            f"{r.type} does not mount on this contactor; it needs the separate base {r.separate_base}.",
            f"overrides.{role}",
            device=designation,
        )
    check_reset(c, designation)
    limit_a, what = (
        r.max_branch_device_nec_a if c.nec else r.max_fuse_gg_a,
        "branch-circuit device" if c.nec else "gG fuse",
    )
    span = w.add(
        f"{role}.range",
        f"Range of {r.type}",
        "",
        f"{r.range_min_a:g} to {r.range_max_a:g} A",
        inputs=(dial.used,),
        rule="smallest range that has the setting away from its ends",
        source=c.catalogue.source_of(r.type),
        candidates=candidates,
    )
    reason, marks = override_marks(override)
    selected = Selected(
        type=r.type,
        kind=r.kind,
        range_min_a=r.range_min_a,
        range_max_a=r.range_max_a,
        phase_loss_sensitive=r.phase_loss_sensitive,
        base=None if mounted else r.separate_base,
        max_upstream_a=limit_a,
        max_upstream=what,
    )
    functions, function_ids = relay_functions(c, plate, r, role, dial.ratio)
    return Device(
        designation,
        role,
        "overload_relay",
        "Overload relay",
        Required(current_a=dial.computed.number),
        selected,
        replace(functions, dial_a=dial.used.number, trip_class=choice.trip_class, reset=d.protection.reset),
        (
            dial.used,
            dial.computed,
            dial.ultimate_trip,
            choice.figure,
            span,
            *([choice.warm] if choice.warm else []),
            *function_ids,
        ),
        span,
        reason,
        marks,
        dial_line_a=dial.line.number,
        checks=checks,
        none_fits=lacking,
    )
