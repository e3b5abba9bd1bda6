"""The motor cable that is proposed: the smallest that passes every check which a typed one gets."""

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.context import Context
from volmek.core.coordination.checks import band_of, check_cable
from volmek.core.devices.cable import candidates_of, capacities_a, check_drops, laying_of, smallest
from volmek.core.devices.short_circuit import ROLE
from volmek.core.document.model import StarterDocument
from volmek.core.installation.motor_cable import MotorCable
from volmek.core.methods.build import KINDS, Built, build
from volmek.core.methods.method import Layout, Method
from volmek.core.plate.network import check_disconnection
from volmek.core.plate.plate import Plate
from volmek.core.plate.reading import read_plate

#: Times that cable and devices are worked out again.
TRIES = 4
#: Findings that say that a cable does not do.
AGAINST = frozenset(
    (
        "cable_too_small",
        "cable_not_protected",
        "cable_short_circuit",
        "disconnection_too_slow",
        "voltage_drop_running",
        "voltage_drop_starting",
    )
)


def build_with_cable(document: StarterDocument, catalogue: Catalogue, method: Method) -> tuple[Context, Plate, Built]:
    """A starter with its motor cable: what is proposed depends on the devices, and they on it by the start, so both are worked out until neither asks for another.

    Raises
    ------
    PlateError : the plate or the supply is impossible, contradictory or incomplete.
    NoDeviceError : the catalogue has no device that fits.
    """
    layout, c = method.layout(document), Context(document, catalogue)
    plate = read_plate(c)
    line_share = method.line_current_share(document, plate.locked_rotor.number / plate.design.number)
    c = c.with_cable(_first(c, plate, layout))
    built = build(c, plate, layout, line_share)
    for _ in range(TRIES):
        cable = _better(c, plate, layout, built)
        if cable == c.cable:
            break
        c = Context(document, catalogue, cable=cable)
        plate = read_plate(c)
        built = build(c, plate, layout, line_share)
    return c, plate, built


def _first(c: Context, plate: Plate, layout: Layout) -> MotorCable | None:
    """The cable to begin with: the typed one, or the smallest that carries what the motor may draw; none in North American practice without a typed one.

    Raises
    ------
    NoDeviceError : the section typed is not one of the table, or the ambient is beyond the factors.
    """
    s = c.document.supply
    if c.nec:
        return MotorCable(s.cable_section_mm2, s.cable_parallel or 1) if s.cable_section_mm2 else None
    laying = laying_of(c.document, plate.phases, 6 if layout.lead_share < 1 else 3)
    cables = candidates_of(c.document, laying)
    draws_a = layout.lead_share * max(plate.design.number, plate.permitted.number)
    return cables[smallest(cables, laying, draws_a)]


def _better(c: Context, plate: Plate, layout: Layout, built: Built) -> MotorCable | None:
    """The cable that the sized devices ask for: of a typed section as many as carry the dial, else the smallest that passes every check.

    Parameters
    ----------
    c, plate, layout, built : a sizing with a cable

    Returns
    -------
    The cable of this sizing where it is that one. Where none passes, the smallest that carries the current: its findings say why.
    """
    if c.nec:
        return c.cable
    laying = laying_of(c.document, plate.phases, 6 if layout.lead_share < 1 else 3)
    cables, able = candidates_of(c.document, laying), capacities_a(laying)
    needed_a = next(d.required.current_a or 0.0 for d in built.devices if d.kind == "motor_conductor")
    least = smallest(cables, laying, needed_a)
    if cables[least].typed:
        return cables[least]
    for k in cables[least:]:
        if k.parallel * able[k.section_mm2] >= needed_a * (1 - 1e-6) and _passes(c, plate, layout, built, k):
            return k
    return cables[least]


def _passes(c: Context, plate: Plate, layout: Layout, built: Built, cable: MotorCable) -> bool:
    if cable == c.cable:
        return all(f.code not in AGAINST for f in c.log()[1])
    aside = c.aside().with_cable(cable)
    front = next(d for d in built.devices if d.role == ROLE)
    row, kind = c.catalogue.by_type[front.type][1], KINDS[built.front]
    assert isinstance(row, ShortCircuitDevice)
    band = band_of(aside, kind, row, front)
    least = check_disconnection(
        aside, plate, built.network, band.upper_a, lambda amps: kind.slow_time_s(row, amps), front.designation
    )
    if built.network:
        check_cable(aside, cable, built.network, band, least)
    check_drops(aside, plate, cable, layout.stages(plate), built.starting_a)
    return all(f.code not in AGAINST for f in aside.log()[1])
