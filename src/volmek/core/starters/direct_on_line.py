"""Direct on line: one contactor, the whole voltage, the whole starting current."""

from dataclasses import replace

from volmek.core.context import Context
from volmek.core.devices import branch_device, breaker, fuse
from volmek.core.devices.conductor import select_conductor
from volmek.core.devices.contactor import select_contactor
from volmek.core.devices.device import Device
from volmek.core.devices.dial import Dial, set_dial
from volmek.core.devices.overload import check_reset, holds, select_relay
from volmek.core.devices.short_circuit import MAGNETIC_LOW, ROLE, Duty, Kind, select
from volmek.core.devices.trip_class import choose_class, start_figure
from volmek.core.document import ProtectionDevice, StarterDocument
from volmek.core.errors import NoDeviceError, Problem
from volmek.core.network import read_network
from volmek.core.plate import Plate
from volmek.core.starters.method import Method

KINDS: dict[str, Kind] = {**breaker.KINDS, **fuse.KINDS, **branch_device.KINDS}
RELAY = "overload_relay"


def refuses(document: StarterDocument) -> list[Problem]:
    """A single-phase motor has its own methods, a slip-ring motor too."""
    if document.motor.phases == 1:
        return [
            Problem("motor.phases", "a single-phase motor is not started by direct_on_line, which is for three phases")
        ]
    return []


def device_kind(c: Context, plate: Plate, dial_a: float) -> ProtectionDevice:
    """The short-circuit device asked for; without a wish the usual one of the practice, said as a finding."""
    asked = c.document.protection.device
    if asked:
        practice = KINDS[asked].practice
        if practice != c.document.practice:
            word = {"iec": "IEC", "nec": "North American"}
            raise NoDeviceError.at(
                "protection.device",
                f"{asked} belongs to {word[practice]} practice; the starter follows "
                f"{word[c.document.practice]} practice",
            )
        return asked
    kind: ProtectionDevice = "inverse_time_breaker"
    if not c.nec:
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
        device="Q1",
    )
    return kind


def devices(c: Context, plate: Plate) -> list[Device]:
    """Breaker, contactor, overload relay and, in North American practice, conductors."""
    start = start_figure(c)
    network = read_network(c, plate)
    override = c.document.override(ROLE)
    nominal = override.dial_a if override and override.dial_a else plate.permitted.number
    kind_name = device_kind(c, plate, nominal)
    kind = KINDS[kind_name]
    role, designation = (ROLE, "Q1") if kind.protects_overload else (RELAY, "F1")
    dial = set_dial(c, plate, role, designation)
    breaker_device = select(c, Duty(plate, dial, network, start.number, plate.sizing), kind_name, kind, "Q1")
    sizing = plate.sizing
    if c.nec and plate.design_source == "nameplate" and plate.design.number > sizing.number:
        sizing = plate.design
    contactor = select_contactor(c, plate, "K1", "line_contactor", sizing, start.number, dial.ultimate_trip)
    found = [breaker_device, contactor]
    if kind.protects_overload:
        found[0] = _with_overload(c, plate, breaker_device, dial)
    else:
        relay = select_relay(c, plate, "F1", RELAY, dial, str(contactor.selected["frame"]))
        _upstream_limit(c, breaker_device, contactor, relay)
        found.append(relay)
    if c.nec:
        found.append(select_conductor(c, plate, plate.sizing))
    return found


def _with_overload(c: Context, plate: Plate, device: Device, dial: Dial) -> Device:
    """A motor breaker's own thermal part, judged as an overload relay is."""
    trip_class = str(device.settings["trip_class"])
    choice = choose_class(c, plate, dial, [trip_class], ROLE, "Q1", "load.start_time_s")
    check_reset(c, "Q1")
    warm = f"{ROLE}.warm_restart_min"
    figures = (
        dial.used.id,
        dial.computed.id,
        dial.ultimate_trip.id,
        choice.figure.id,
        *device.figures,
        *([warm] if warm in c.working.figures else []),
    )
    return replace(
        device,
        required={**device.required, "dial_a": dial.computed.number},
        figures=figures,
        settings={**device.settings, "reset": c.document.protection.reset},
    )


def _upstream_limit(c: Context, device: Device, contactor: Device, relay: Device) -> None:
    """The greatest device in front that contactor and relay are marked for."""
    rated = device.selected["rated_current_a"]
    assert isinstance(rated, float)
    marks = [(relay, relay.selected["max_upstream_a"])]
    if not c.nec:
        if device.kind not in ("fuse_gg", "fuse_am"):
            return
        marks.append((contactor, contactor.selected["max_fuse_gg_a"]))
    for marked, limit in marks:
        if isinstance(limit, float) and rated > limit * (1 + 1e-6):
            c.find(
                "stop",
                "upstream_device_too_large",
                f"{marked.selected['type']} is marked for at most {limit:g} A in front of it; "
                f"{device.selected['type']} has {rated:g} A.",
                f"overrides.{ROLE}",
                source="NEC 430.52(C)(2)" if c.nec else "IEC 60947-4-1, 8.2.5; maker's data",
                device=marked.designation,
            )


METHOD = Method("Direct on line", refuses, 1.0, 1.0, devices)
