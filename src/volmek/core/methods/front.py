"""The short-circuit device of a starter: the kind asked for or the usual one, how it shares overload protection, and what else is suitable."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import get_args

from volmek.core.circuit.model.fitted import overload_fitted
from volmek.core.context import Context
from volmek.core.devices import branch_device, breaker, fuse
from volmek.core.devices.device import Device
from volmek.core.devices.dial import Dial, set_dial
from volmek.core.devices.overload import check_reset
from volmek.core.devices.part import IN_THE_LINE, RelayPart
from volmek.core.devices.short_circuit import ROLE, Duty, Kind, select
from volmek.core.devices.trip_class import choose_class
from volmek.core.document.model import ProtectionDevice, StarterDocument
from volmek.core.installation.designations import MAIN_BREAKER
from volmek.core.methods.method import Layout
from volmek.core.physics.profile import Profile
from volmek.core.physics.thermal import MUST_TRIP_MULTIPLE, NO_TRIP_MULTIPLE
from volmek.core.plate.network import Network
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read
from volmek.core.start.start import Start

KINDS: dict[str, Kind] = {**breaker.KINDS, **fuse.KINDS, **branch_device.KINDS}
#: A motor breaker behind whose dial relays act stands so many times above the motor current, and stays back from so many times on.
STANDS_BACK, STANDS_BACK_AT_LEAST = 1.2, MUST_TRIP_MULTIPLE / NO_TRIP_MULTIPLE


@dataclass(frozen=True, slots=True)
class Front:
    """The short-circuit device, its kind, and how overload protection is shared.

    Attributes
    ----------
    kind : of the device
    device : as it is set
    dial : of its own overload part, None where it has none
    leading : dial of the overload protection that counts
    relays, dials : relays beside it, by role
    """

    kind: ProtectionDevice
    device: Device
    dial: Dial | None
    leading: Dial
    relays: dict[str, RelayPart]
    dials: dict[str, Dial]


@dataclass(frozen=True, slots=True)
class Place:
    """Demands on a short-circuit device.

    Attributes
    ----------
    plate, layout, network, start : of the starter
    line_share : line current during the start as a share of direct on line
    """

    plate: Plate
    layout: Layout
    network: Network | None
    start: Start
    line_share: float


def usual_kinds(document: StarterDocument) -> tuple[ProtectionDevice, ...]:
    """Kinds of short-circuit device that are tried where none is chosen, the usual one of the practice first.

    Examples
    --------
    >>> from volmek.core.examples import example_document
    >>> usual_kinds(example_document(practice="nec"))[0]
    'inverse_time_breaker'
    """
    if document.practice == "nec":
        return ("inverse_time_breaker", "time_delay_fuse", "non_time_delay_fuse")
    if document.starter.type == "manual":
        return ("motor_breaker",)
    if not overload_fitted(document):  # a motor breaker would be the overload protection that is not wanted
        return ("miniature_breaker_c", "moulded_case_breaker", "fuse_gg")
    return ("motor_breaker", "moulded_case_breaker", "fuse_gg")


def choose_front(c: Context, place: Place) -> Front:
    """The short-circuit device asked for; without a wish the usual one, or the next kind where that one is ruled out, and why.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> d = example(protection={"device": None}, supply={"prospective_current_ka": 100}).design
    >>> d.devices[0].kind
    'fuse_gg'
    """
    if asked := c.document.protection.device:
        return _of_kind(c, place, asked, lambda: _others(c, place, asked))
    kinds, against, first = usual_kinds(c.document), "", None
    for kind in kinds:
        trial = c.aside()
        found = _of_kind(trial, place, kind, lambda: _others(c, place, kinds[0]))
        stops = _against(trial)
        if not stops:
            break
        if first is None:
            first, against = (trial, found), stops[0]
    else:
        assert first
        trial, found = first
        against = ""
    label = KINDS[found.kind].words
    moved = f"{label}; a {KINDS[kinds[0]].words} is not suitable: {against}" if against else f"{label}."
    c.accept(trial)
    c.find("info", "device_kind_not_chosen", f"No kind of short-circuit device is chosen; the usual one is assumed: {moved}", "protection.device",
           device=MAIN_BREAKER)  # fmt: skip
    return found


def _against(trial: Context) -> list[str]:
    """Reasons against a device that do not depend on the motor cable, which is chosen after it."""
    return [
        f.message
        for f in trial.log()[1]
        if f.severity == "stop" and f.device == MAIN_BREAKER and f.code != "disconnection_too_slow"
    ]


def _others(c: Context, place: Place, kind: ProtectionDevice) -> str:
    """Other kinds of device that would do, in words."""
    fit = []
    for name in get_args(ProtectionDevice):
        other = KINDS[name]
        if (
            name == kind
            or other.practice != c.document.practice
            or (not place.layout.contactors and not other.protects_overload)
        ):
            continue
        trial = c.aside()
        _of_kind(trial, place, name)
        if not _against(trial):
            fit.append(other.words)
    if not fit:
        return "No other kind in the catalogues fits either: add a larger range, or choose another method."
    *some, last = fit
    return (
        f"Choose another kind of device: {', '.join(some)} or {last} is suitable."
        if some
        else f"Choose another kind of device: {last} is suitable."
    )


def _of_kind(c: Context, place: Place, kind_name: ProtectionDevice, remedy: Callable[[], str] | None = None) -> Front:
    plate, start, kind = place.plate, place.start, KINDS[kind_name]
    # A motor breaker is the overload protection wherever one relay would see the whole motor current anyway.
    in_breaker = kind.protects_overload and all(
        r.factor == 1 and not r.current_field and not r.weakness for r in place.layout.relays
    )
    dial = set_dial(c, plate, ROLE, MAIN_BREAKER, IN_THE_LINE, place.line_share) if kind.protects_overload else None
    # Relays of one role are alike (the halves of a part winding): sized once.
    parts = {} if in_breaker else {part.role: part for part in reversed(place.layout.relays)}
    dials = {role: set_dial(c, plate, role, part.designation, part, place.line_share) for role, part in parts.items()}
    leading = dials.get("overload_relay") or dial
    assert leading
    duty = Duty(
        plate,
        dial or leading,
        place.network,
        start.profile,
        plate.sizing,
        place.line_share,
        start.source != "assumed",
        start.reclosing_peak,
    )
    device = _front(c, duty, kind_name, kind, remedy)
    if dial:
        device = _with_overload(c.quiet() if device.none_fits else c, plate, device, dial, start.figure, start.profile)
    return Front(kind_name, device, dial, leading, parts, dials)


def _front(c: Context, duty: Duty, kind_name: ProtectionDevice, kind: Kind, remedy: Callable[[], str] | None) -> Device:
    """The short-circuit device; where none clears the peak of the change-over, the one for the start, and a stop."""
    if duty.reclosing is None or duty.peak is not duty.reclosing:
        return select(c, duty, kind_name, kind, MAIN_BREAKER, remedy)
    trial = c.aside()
    device = select(trial, duty, kind_name, kind, MAIN_BREAKER, remedy)
    if device.none_fits:
        without = c.aside()
        stands = select(without, replace(duty, reclosing=None), kind_name, kind, MAIN_BREAKER)
        if stands.none_fits is None:
            c.accept(without)
            c.find("stop", "reclosing_above_trip", f"When delta closes the peak inrush is {duty.peak.text} A; no {kind.words} of the catalogue stands above that, "
                   "and this one trips or melts at the change-over.", "starter.star_time_s", device=MAIN_BREAKER)  # fmt: skip
            return stands
    c.accept(trial)
    return device


def _with_overload(c: Context, plate: Plate, device: Device, dial: Dial, start: Figure, profile: Profile) -> Device:
    """A motor breaker's own thermal part, judged as an overload relay is."""
    trip_class = str(device.settings.trip_class)
    choice = choose_class(c, plate, dial, [trip_class], ROLE, MAIN_BREAKER, "load.start_time_s", start, profile)
    check_reset(c, MAIN_BREAKER)
    figures = (
        dial.used,
        dial.computed,
        dial.ultimate_trip,
        choice.figure,
        *device.figures,
        *([choice.warm] if choice.warm else []),
    )
    return replace(
        device,
        required=replace(device.required, dial_a=dial.computed.number),
        figures=figures,
        settings=replace(device.settings, reset=c.document.protection.reset),
        dial_line_a=dial.line.number,
    )


def stands_back(c: Context, front: Device, dial: Dial, relays: list[str]) -> Device:
    """A motor breaker in front of relays of its own: they carry the winding currents and trip first, so it is set above their latest trip."""
    override, top = c.document.override(ROLE), front.selected.range_max_a
    acts = " and ".join(relays)
    if (override and override.dial_a is not None) or top is None:
        value, figure = dial.used.number, dial.used
    else:
        value = min(STANDS_BACK * dial.used.number, top)
        figure = c.working.again(
            dial.used, id=f"{ROLE}.dial_a", value=value, text=as_read(value), formula=f"min({STANDS_BACK:g}·Iset, top of the range)", inputs=(dial.computed.id,),
            rule=f"it stands back: {acts} see{'s' if len(relays) == 1 else ''} what the windings carry and act{'s' if len(relays) == 1 else ''}",
        )  # fmt: skip
    back = value >= STANDS_BACK_AT_LEAST * dial.computed.number
    dial_said = (
        f"{front.designation} is set to {as_read(value)} A, so that it trips later"
        if back
        else f"at {as_read(value)} A {front.designation} may still trip first, and then takes the control voltage away"
    )
    c.find(
        "attention",
        "overload_doubled",
        f"{', '.join([front.designation, *relays[:-1]])} and {relays[-1]} protect against overload one behind the other: "
        f"{acts} act{'s' if len(relays) == 1 else ''}; {dial_said}.",
        "protection.device",
        device=front.designation,
    )
    return replace(
        front, settings=replace(front.settings, dial_a=value), figures=(figure, *front.figures[1:]), dial_line_a=value
    )
