"""Sizes every device of a starter from the parts of its method, from the supply down."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.circuit.model.fitted import overload_fitted
from volmek.core.circuit.needs import circuit_needs
from volmek.core.context import Context
from volmek.core.coordination.checks import band_of
from volmek.core.coordination.coordination import Coordination, coordinate
from volmek.core.devices import branch_device, breaker, fuse
from volmek.core.devices.cable import check_drops, lead_current_a, select_cable
from volmek.core.devices.conductor import select_conductor
from volmek.core.devices.contactor import SHORT_TIME_DUTY_S, select_contactor
from volmek.core.devices.control import control_devices
from volmek.core.devices.cycle import check_cycle
from volmek.core.devices.device import Device
from volmek.core.devices.dial import Dial, set_dial
from volmek.core.devices.overload import check_duty, check_reset, holds, select_relay
from volmek.core.devices.part import IN_THE_LINE, ContactorPart, RelayPart
from volmek.core.devices.short_circuit import MAGNETIC_LOW, ROLE, Duty, Kind, select
from volmek.core.devices.timer import chosen_pause_s
from volmek.core.devices.trip_class import choose_class
from volmek.core.document.errors import NoDeviceError
from volmek.core.document.model import ProtectionDevice, StarterDocument
from volmek.core.installation.designations import MAIN_BREAKER, OVERLOAD
from volmek.core.installation.motor_cable import MotorCable
from volmek.core.methods.cable_choice import choose_cable, first_cable
from volmek.core.methods.method import Layout, Method
from volmek.core.physics.profile import Profile, heat_a2s
from volmek.core.physics.thermal import MUST_TRIP_MULTIPLE, NO_TRIP_MULTIPLE
from volmek.core.plate.network import Network, read_network
from volmek.core.plate.plate import Plate
from volmek.core.plate.reading import read_plate
from volmek.core.results.figures import Figure, as_read
from volmek.core.start.dip import StartDip, check_start
from volmek.core.start.start import Start, read_start, with_other_start

#: Rated power up to which a single-phase motor without overload protection is only remarked on [kW].
LEAST_PROTECTED_KW = 0.5
#: More star-delta starts than this in an hour ask for a star contactor of the delta contactor's size.
FREQUENT_STARTS_PER_HOUR = 6.0
#: A motor breaker behind whose dial relays act stands so many times above the motor current, and stays back from so many times on.
STANDS_BACK, STANDS_BACK_AT_LEAST = 1.2, MUST_TRIP_MULTIPLE / NO_TRIP_MULTIPLE
#: Times that the motor cable and the devices are worked out again.
CABLES_TRIED = 4
KINDS: dict[str, Kind] = {**breaker.KINDS, **fuse.KINDS, **branch_device.KINDS}


def device_kind(c: Context, plate: Plate, dial_a: float) -> ProtectionDevice:
    """The short-circuit device asked for; without a wish the usual one of the practice, said as a finding."""
    asked = c.document.protection.device
    if asked:
        practice = KINDS[asked].practice
        if practice != c.document.practice:
            word = {"iec": "IEC", "nec": "North American"}
            raise NoDeviceError.at(
                "protection.device",
                f"{asked} belongs to {word[practice]} practice; the starter follows {word[c.document.practice]} practice",
            )
        return asked
    kind: ProtectionDevice = "inverse_time_breaker"
    if not overload_fitted(c.document) and not c.nec:
        kind = "miniature_breaker_c"  # a motor breaker would be the overload protection that is not wanted
    elif not c.nec:
        covered = any(
            holds(b.dial_min_a or 0, b.dial_max_a or 0, dial_a)
            and MAGNETIC_LOW * (b.instantaneous_max_a or 0) >= plate.peak.number
            for b in c.catalogue.short_circuit_devices["motor_breaker"]
        )
        kind = "motor_breaker" if covered else "moulded_case_breaker"
    c.find(
        "info",
        "device_kind_not_chosen",
        f"No kind of short-circuit device is chosen; the usual one is taken: {KINDS[kind].label.lower()}.",
        "protection.device",
        device=MAIN_BREAKER,
    )
    return kind


@dataclass(frozen=True, slots=True)
class Built:
    """The sized starter: devices, kind of its short-circuit device, their coordination, its start, the supply it hangs on, the line current at standstill, the motor cable, and the dip of the start."""

    front: ProtectionDevice
    devices: list[Device]
    coordination: Coordination
    start: Start
    network: Network | None
    starting_a: float
    cable: MotorCable | None
    dip: StartDip | None


def build_starter(document: StarterDocument, catalogue: Catalogue, method: Method) -> tuple[Context, Plate, Built]:
    """A starter with its motor cable: of known length, what is proposed depends on the devices, and they on it by the start; both are worked out
    until neither asks for another.

    Raises
    ------
    PlateError : the plate or the supply is impossible, contradictory or incomplete.
    NoDeviceError : the catalogue has no device that fits.
    """
    layout, c = method.layout(document), Context(document, catalogue)
    plate = read_plate(c)
    line_share = method.line_current_share(document, plate.locked_rotor.number / plate.design.number)
    c = c.with_cable(first_cable(c, plate, layout))
    built = build(c, plate, layout, line_share)
    for _ in range(CABLES_TRIED):
        if built.cable == c.cable or document.supply.cable_length_m is None:
            break
        c = Context(document, catalogue, cable=built.cable)
        plate = read_plate(c)
        built = build(c, plate, layout, line_share)
    return c.with_cable(built.cable), plate, built


def build(c: Context, plate: Plate, layout: Layout, line_share: float) -> Built:
    """Breaker or fuses, contactors, overload relays, timer, control supply and conductors; and their coordination.

    Parameters
    ----------
    line_share : line current during the start as a share of direct on line
    """
    network = read_network(c, plate)
    starting_a = line_share * plate.locked_rotor.number
    built_in = chosen_pause_s(c)
    dwell_s = built_in if built_in is not None and layout.dwell_s else layout.dwell_s
    start = read_start(c, plate, network, layout.stages(plate), layout.timed, dwell_s)
    if layout.other:
        start = with_other_start(c, plate, start, layout.other.field, layout.other.drive)
    override = c.document.override(ROLE)
    nominal = override.dial_a if override and override.dial_a else plate.permitted.number
    kind_name = device_kind(c, plate, nominal)
    kind = KINDS[kind_name]
    # A motor breaker is the overload protection wherever one relay would see the whole motor current anyway.
    in_breaker = kind.protects_overload and all(
        r.factor == 1 and not r.current_field and not r.weakness for r in layout.relays
    )
    if not layout.contactors and not kind.protects_overload:
        raise NoDeviceError.at(
            "protection.device",
            "a manual starter is a motor breaker that switches and protects; no motor breaker covers this motor",
        )
    front_dial = set_dial(c, plate, ROLE, MAIN_BREAKER, IN_THE_LINE, line_share) if kind.protects_overload else None
    # Relays of one role are alike (the halves of a part winding): sized once.
    parts = {} if in_breaker else {part.role: part for part in reversed(layout.relays)}
    dials = {role: set_dial(c, plate, role, part.designation, part, line_share) for role, part in parts.items()}
    leading = dials.get("overload_relay") or front_dial
    assert leading
    duty = Duty(
        plate,
        front_dial or leading,
        network,
        start.profile,
        plate.sizing,
        line_share,
        start.source != "assumed",
        start.reclosing_peak,
    )
    front = _front(c, duty, kind_name, kind)
    if front_dial:
        front = _with_overload(c, plate, front, front_dial, start.figure, start.profile)
    sizing = plate.sizing
    if c.nec and plate.design_source == "nameplate" and plate.design.number > sizing.number:
        sizing = plate.design

    def profile(part: ContactorPart | RelayPart) -> Profile:
        own = layout.other is not None and part.current_field == layout.other.field
        return start.other_profile if own and start.other_profile else start.profile

    contactors = [_contactor(c, plate, part, sizing, profile(part), leading, line_share) for part in layout.contactors]
    sized: dict[str, Device] = {}
    fitted = parts if overload_fitted(c.document) else {}
    if fitted and front_dial:
        front = _stands_back(c, front, front_dial, [p.designation for p in layout.relays])
    for role, part in fitted.items():
        sized[role] = select_relay(
            c, plate, part, dials[role], str(contactors[0].selected.frame), start.figure, profile(part)
        )
        _upstream_limit(c, front, contactors[0], sized[role])
        if part.weakness:
            words = part.why[0].upper() + part.why[1:]
            c.find("attention", part.weakness, words, "starter.overload_position", device=part.designation)
    relays = [replace(sized[p.role], designation=p.designation) for p in layout.relays] if fitted else []
    if contactors:
        own = layout.figures(c, plate, MAIN_BREAKER if front_dial else OVERLOAD if fitted else "")
        contactors[0] = replace(contactors[0], figures=(*contactors[0].figures, *own))
    extras = [(extra.place, extra.select(c, plate, front, start)) for extra in layout.extras]
    if not overload_fitted(c.document):
        _say_left_out(c, plate, parts.values(), front_dial is not None)
    check_duty(c)
    if fitted or front_dial:
        check_cycle(c, plate, leading, OVERLOAD if fitted else MAIN_BREAKER, start.profile)
    found = [
        front,
        *(k for k in contactors if not k.branch),
        *(d for place, d in extras if place == "line"),
        *relays,
        *(k for k in contactors if k.branch),
    ]
    if layout.interlock and c.document.control.mechanical_interlock is False:
        c.find(
            "attention",
            "mechanical_interlock",
            f"{layout.interlock} closed together short the supply; electrical interlocks alone leave a race.",
            "control.mechanical_interlock",
        )
    found += [d for place, d in extras if place == "branch"]
    contacts, steps = circuit_needs(c.document)
    found = [_with_contacts(c, d, contacts.get(d.designation)) for d in found]
    found += control_devices(c, plate, found, steps)
    if c.nec:
        found.append(select_conductor(c, plate, plate.sizing, layout.lead_share))
    else:
        stages, row = layout.stages(plate), c.catalogue.by_type[front.type][1]
        assert isinstance(row, ShortCircuitDevice)
        cable = choose_cable(
            c, plate, layout, network, band_of(c, kind, row, front), lead_current_a(plate, leading, layout.lead_share),
            lambda aside, k: check_drops(aside, plate, k, stages, starting_a),
        )  # fmt: skip
        c = c.with_cable(cable)
        found.append(select_cable(c, plate, leading, layout.lead_share, stages, starting_a))
    dip = check_start(c, plate, network, layout.stages(plate)[0], starting_a)
    coordination = coordinate(c, plate, network, kind, KINDS, found)
    return Built(kind_name, found, coordination, start, network, starting_a, c.cable, dip)


def _with_contacts(c: Context, device: Device, need: dict[str, int] | None) -> Device:
    """A contactor with the auxiliary contacts that its circuit needs, and the block that has to be added."""
    if device.kind != "contactor" or need is None:
        return device
    row = c.catalogue.by_type.get(device.type)
    has = {k: getattr(row[1], f"auxiliary_{k}", None) if row else None for k in ("no", "nc")}
    missing = [f"{n} {word}" for k, word in (("no", "make"), ("nc", "break")) if (n := need[k] - int(has[k] or 0)) > 0]
    selected = replace(
        device.selected,
        auxiliary_needed_no=need["no"],
        auxiliary_needed_nc=need["nc"],
        auxiliary_block=" + ".join(missing) or None,
    )
    return replace(device, selected=selected)


def _front(c: Context, duty: Duty, kind_name: ProtectionDevice, kind: Kind) -> Device:
    """The short-circuit device; where none stands above the peak of the change-over, the one for the start, and a stop."""
    try:
        return select(c, duty, kind_name, kind, MAIN_BREAKER)
    except NoDeviceError:
        if duty.reclosing is None or duty.peak is not duty.reclosing:
            raise
    device = select(c, replace(duty, reclosing=None), kind_name, kind, MAIN_BREAKER)
    c.find(
        "stop",
        "reclosing_above_trip",
        f"When delta closes the first peak is {duty.peak.text} A; no {kind.label.lower()} of the catalogue stands above that, "
        "and this one trips or melts at the change-over.",
        "starter.star_time_s",
        device=MAIN_BREAKER,
    )
    return device


def _say_left_out(c: Context, plate: Plate, relays: Iterable[RelayPart], breaker: bool) -> None:
    """A starter without overload relay: dangerous but for the smallest single-phase motors, or where a motor breaker sees what the relay would."""
    m = c.document.motor
    if breaker:
        for part in relays:
            if part.without:
                c.find(
                    "stop" if part.current_field else "attention",
                    "relay_left_out",
                    f"Without the relay {part.designation} the motor breaker is the only overload protection: {part.without}.",
                    "protection.overload",
                    device=MAIN_BREAKER,
                )
        return
    small = plate.phases == 1 and (plate.power_kw or 1.0) <= LEAST_PROTECTED_KW
    mild = plate.phases == 1 and (small or bool(m.thermal_protector)) and c.document.control.variant != "as_often_built"
    why = "; its built-in thermal protector is all that is left" if mild and m.thermal_protector else ""
    c.find(
        "attention" if mild else "stop",
        "no_overload_protection",
        f"Without an overload relay or motor breaker nothing protects this motor against overload{why}.",
        "protection.overload",
        device=MAIN_BREAKER,
    )


def _contactor(
    c: Context, plate: Plate, part: ContactorPart, sizing: Figure, profile: Profile, dial: Dial, line_share: float
) -> Device:
    part = replace(part, start_share=min(part.start_share, line_share))
    part = _heavy(c, part, sizing, profile)
    base, at_rest = sizing, plate.locked_rotor
    if part.current_field:
        base, at_rest = _own_current(c, plate, part)
    current = _share(c, part, base, "role_current_a", "Current")
    locked = _share(c, part, at_rest, "role_start_a", "Current to make and break at the worst")
    scale = at_rest.number / plate.locked_rotor.number  # a rotor contactor follows the rotor's current
    steps = [(dt, scale * amps) for dt, amps in profile.through(part.start_share, part.stage_shares)]
    device = select_contactor(c, plate, part, current, locked, steps, dial.ultimate_trip)
    return replace(device, branch=part.branch)


def _own_current(c: Context, plate: Plate, part: ContactorPart) -> tuple[Figure, Figure]:
    """Current of a part that has a figure of its own on the plate, and the most it makes: the rotor starts at 2.5."""
    w, name = c.working, part.current_field.partition(".")[2]
    rotor = name == "rotor_current_a"
    label = "Rotor current on the plate" if rotor else "Low speed's current on the plate"
    base = w.typed(part.current_field, label, "I2" if rotor else "Ilow", getattr(c.document.motor, name), "A")
    assert base
    ratio = 2.5 if rotor else plate.locked_rotor.number / plate.design.number
    at_rest = w.add(
        f"{part.current_field}_at_rest",
        f"{label}, at the start",
        f"{base.symbol}a",
        ratio * base.number,
        "A",
        formula=f"{ratio:.3g}·{base.symbol}",
        inputs=(base,),
        rule="AC-2 makes 2.5 times" if rotor else "same inrush ratio as the high speed",
        source="IEC 60947-4-1, Table 7",
    )
    return base, at_rest


def _heavy(c: Context, part: ContactorPart, sizing: Figure, profile: Profile) -> ContactorPart:
    """A part that takes its larger share, because its run-up is long or its starts are many."""
    if part.heavy_factor is None:
        return part
    able = SHORT_TIME_DUTY_S * (part.factor * sizing.number) ** 2
    used = heat_a2s(profile.through(part.start_share, part.stage_shares))
    often = (c.document.load.starts_per_hour or 0) > FREQUENT_STARTS_PER_HOUR
    if used <= able and not often:
        return part
    why = (
        f"more than {FREQUENT_STARTS_PER_HOUR:g} starts an hour"
        if often
        else f"a start of {as_read(profile.start_s)} s"
    )
    c.find(
        "attention",
        "star_contactor_as_delta",
        f"{part.designation} takes the share of the delta contactor, since {why} is too much for a third.",
        "load.starts_per_hour" if often else "load.start_time_s",
        device=part.designation,
    )
    return replace(
        part, factor=part.heavy_factor, formula=f"{part.heavy_factor:.3f}", why=f"as the delta contactor: {why}"
    )


def _share(c: Context, part: ContactorPart, figure: Figure, name: str, what: str) -> Figure:
    """The share of a current that a contactor carries; the figure itself where it is the whole."""
    if part.factor == 1:
        return figure
    return c.working.add(
        f"{part.role}.{name}",
        f"{what} through {part.designation}",
        f"I{part.designation}",
        part.factor * figure.number,
        "A",
        formula=f"{part.formula}·{figure.symbol}",
        inputs=(figure,),
        rule=part.why,
        source="IEC 60947-4-1; usual factor of the circuit",
    )


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


def _stands_back(c: Context, front: Device, dial: Dial, relays: list[str]) -> Device:
    """A motor breaker in front of relays of its own: they see the currents that count and act, so its dial goes above the latest of their trips."""
    override, top = c.document.override(ROLE), front.selected.range_max_a
    acts = " and ".join(relays)
    if (override and override.dial_a is not None) or top is None:
        value, figure = dial.used.number, dial.used
    else:
        value = min(STANDS_BACK * dial.used.number, top)
        figure = c.working.again(
            dial.used, id=f"{ROLE}.dial_a", value=value, text=as_read(value), formula=f"min({STANDS_BACK:g}·Iset, top of the dial)", inputs=(dial.computed.id,),
            rule=f"it stands back: {acts} see{'s' if len(relays) == 1 else ''} what the windings carry and act{'s' if len(relays) == 1 else ''}",
        )  # fmt: skip
    back = value >= STANDS_BACK_AT_LEAST * dial.computed.number
    dial_said = (
        f"the dial of {front.designation} goes to {as_read(value)} A, so that it stays back"
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


def _upstream_limit(c: Context, device: Device, contactor: Device, relay: Device) -> None:
    """The greatest device in front that contactor and relay are marked for."""
    rated = device.selected.rated_current_a
    assert rated is not None
    marks = [(relay, relay.selected.max_upstream_a)]
    if not c.nec:
        if device.kind not in ("fuse_gg", "fuse_am"):
            return
        marks.append((contactor, contactor.selected.max_fuse_gg_a))
    for marked, limit in marks:
        if limit is not None and rated > limit * (1 + 1e-6):
            c.find(
                "stop",
                "upstream_device_too_large",
                f"{marked.selected.type} is marked for at most {limit:g} A in front of it; "
                f"{device.selected.type} has {rated:g} A.",
                f"overrides.{ROLE}",
                device=marked.designation,
            )
