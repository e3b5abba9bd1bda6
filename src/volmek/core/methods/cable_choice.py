"""The motor cable that is proposed: the smallest that passes every check which a typed one gets."""

from collections.abc import Callable

from volmek.core.context import Context
from volmek.core.coordination.checks import Band, check_cable, stands_a2s, worst_fault_a2s
from volmek.core.devices.cable import Laying, candidates_of, capacities_a, laying_of, smallest
from volmek.core.installation.motor_cable import MotorCable
from volmek.core.methods.method import Layout
from volmek.core.plate.network import Network, check_disconnection
from volmek.core.plate.plate import Plate

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


def _laying(c: Context, plate: Plate, layout: Layout) -> Laying:
    return laying_of(c.document, plate.phases, 6 if layout.lead_share < 1 else 3)


def first_cable(c: Context, plate: Plate, layout: Layout) -> MotorCable | None:
    """The cable to begin with: the typed one, or the smallest that carries what the motor may draw; none in North American practice without a typed one.

    Raises
    ------
    NoDeviceError : the ambient is beyond the factors.
    """
    s = c.document.supply
    if c.nec:
        return MotorCable(s.cable_section_mm2, s.cable_parallel or 1) if s.cable_section_mm2 else None
    laying = _laying(c, plate, layout)
    cables = candidates_of(c.document, laying)
    draws_a = layout.lead_share * max(plate.design.number, plate.permitted.number)
    return cables[smallest(cables, laying, draws_a)]


def choose_cable(
    c: Context,
    plate: Plate,
    layout: Layout,
    network: Network | None,
    band: Band | None,
    needed_a: float,
    drops: Callable[[Context, MotorCable], object],
) -> MotorCable | None:
    """The cable that the sized devices ask for: a typed one as it is, else the smallest that passes every check.

    Parameters
    ----------
    c, plate, layout, network : the sizing so far
    band : clearing times of the short-circuit device as it is set; None while none fits, then load and drop alone decide
    needed_a : in each lead [A]
    drops : logs the voltage drops of a cable

    Returns
    -------
    Where none passes, the smallest that carries the current: its findings say why.
    """
    if c.nec or (c.cable and c.cable.typed):
        return c.cable
    laying = _laying(c, plate, layout)
    cables, able = candidates_of(c.document, laying), capacities_a(laying)
    least = smallest(cables, laying, needed_a)

    insulation = c.document.supply.cable_insulation or "pvc"
    whole = worst_fault_a2s(cables[least], network, band, None)[0] if network and band else 0.0

    def passes(cable: MotorCable) -> bool:
        if stands_a2s(cable.section_mm2, insulation) < whole:
            return False
        if c.document.supply.cable_length_m is None:  # nothing else depends on the section
            return True
        aside = c.aside().with_cable(cable)
        if band:
            fault = check_disconnection(aside, plate, network, band.upper_a, band.thermal_s, "")
            if network:
                check_cable(aside, cable, network, band, fault)
        drops(aside, cable)
        return all(f.code not in AGAINST for f in aside.log()[1])

    enough = (k for k in cables[least:] if k.parallel * able[k.section_mm2] >= needed_a * (1 - 1e-6))
    return next(filter(passes, enough), cables[least])
