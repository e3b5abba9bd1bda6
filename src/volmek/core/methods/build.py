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
from volmek.core.devices.cable import check_drops, lead_current_a, select_cable
from volmek.core.devices.conductor import select_conductor
from volmek.core.devices.contactor import SHORT_TIME_DUTY_S, select_contactor
from volmek.core.devices.control import control_devices
from volmek.core.devices.cycle import check_cycle
from volmek.core.devices.device import Device, Selected
from volmek.core.devices.dial import Dial
from volmek.core.devices.overload import check_duty, select_relay
from volmek.core.devices.part import ContactorPart, RelayPart
from volmek.core.devices.settings import Settings
from volmek.core.devices.short_circuit import ROLE
from volmek.core.devices.timer import chosen_pause_s
from volmek.core.document.model import ProtectionDevice, StarterDocument
from volmek.core.installation.designations import MAIN_BREAKER, OVERLOAD
from volmek.core.installation.motor_cable import MotorCable
from volmek.core.methods.cable_choice import choose_cable, first_cable
from volmek.core.methods.front import KINDS, Place, choose_front, stands_back
from volmek.core.methods.method import Layout, Method
from volmek.core.physics.profile import Profile, heat_a2s
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
#: Times that the motor cable and the devices are worked out again.
CABLES_TRIED = 4


@dataclass(frozen=True, slots=True)
class Built:
    """The sized starter: devices, kind of its short-circuit device, their coordination, its start, its supply, the line current at standstill, the motor cable, and the dip of the start."""

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
    chosen = choose_front(c, Place(plate, layout, network, start, line_share))
    front, front_dial, leading, parts, dials = chosen.device, chosen.dial, chosen.leading, chosen.relays, chosen.dials
    kind_name, kind = chosen.kind, KINDS[chosen.kind]
    sizing = plate.sizing
    if c.nec and plate.design_source == "nameplate" and plate.design.number > sizing.number:
        sizing = plate.design

    def profile(part: ContactorPart | RelayPart) -> Profile:
        own = layout.other is not None and part.current_field == layout.other.field
        return start.other_profile if own and start.other_profile else start.profile

    contactors = [_contactor(c, plate, part, sizing, profile(part), leading, line_share) for part in layout.contactors]
    sized: dict[str, Device] = {}
    fitted = parts if overload_fitted(c.document) else {}
    if fitted and front_dial and front.none_fits is None:
        front = stands_back(c, front, front_dial, [p.designation for p in layout.relays])
    for role, part in fitted.items():
        sized[role] = select_relay(
            c, plate, part, dials[role], str(contactors[0].selected.frame), start.figure, profile(part)
        )
        if not any(d.none_fits for d in (front, contactors[0], sized[role])):
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
        stages, band = layout.stages(plate), None
        if front.none_fits is None:
            row = c.catalogue.by_type[front.type][1]
            assert isinstance(row, ShortCircuitDevice)
            band = band_of(c, kind, row, front)
        cable = choose_cable(
            c, plate, layout, network, band, lead_current_a(plate, leading, layout.lead_share),
            lambda aside, k: check_drops(aside, plate, k, stages, starting_a),
        )  # fmt: skip
        c = c.with_cable(cable)
        found.append(select_cable(c, plate, leading, layout.lead_share, stages, starting_a))
    dip = check_start(c, plate, network, layout.stages(plate)[0], starting_a)
    coordination = coordinate(c, plate, network, kind, KINDS, found)
    return Built(kind_name, [_bare(c, d) for d in found], coordination, start, network, starting_a, c.cable, dip)


def _bare(c: Context, device: Device) -> Device:
    """Of a role for which there is no device only what follows from the motor: required rating, and setting."""
    if device.none_fits is None:
        return device
    s, kept = device.settings, (".required_current_a", ".dial_a", ".computed_dial_a", ".trip_class")
    looked_at = c.working.again(
        device.choice, label=f"{device.label}, from the catalogues", value="none fits", text="none fits", unit="", formula="", substituted="",
    )  # fmt: skip
    figures = (*(f for f in device.figures if f.id.endswith(kept)), looked_at)
    settings = Settings(dial_a=s.dial_a, trip_class=s.trip_class)
    return replace(device, selected=Selected(), settings=settings, figures=figures, choice=looked_at)


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


def _say_left_out(c: Context, plate: Plate, relays: Iterable[RelayPart], breaker: bool) -> None:
    """A starter without overload relay: dangerous but for the smallest single-phase motors, or where a motor breaker carries the same current as the relay would."""
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
    locked = _share(c, part, at_rest, "role_start_a", "Highest current to make and break")
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
