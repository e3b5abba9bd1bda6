"""The dip of the supply at the first moment of a start, and the limits that the supplier or the document sets."""

from cmath import rect
from dataclasses import dataclass
from math import acos, sqrt

from volmek.core.context import Context
from volmek.core.physics.motor_model import START_POWER_FACTOR
from volmek.core.physics.run_up import Stage
from volmek.core.plate.network import Network
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import as_read

#: Power factor of a slip-ring motor at standstill over its resistors.
RINGS_POWER_FACTOR = 0.8


@dataclass(frozen=True, slots=True)
class StartDip:
    """Share of the voltage that is lost at the first moment of a start, up to the board and up to the motor [%]."""

    board_pct: float
    motor_pct: float


def start_dip(
    plate: Plate, network: Network | None, stage: Stage, starting_a: float, cable_ohm: complex = 0j
) -> StartDip | None:
    """Dip with the motor at standstill on the supply in a stage; None while the supply is not known.

    Parameters
    ----------
    network : source impedance
    stage : how the motor hangs on the line
    starting_a : line current at standstill at full voltage [A]
    cable_ohm : of the motor cable, one conductor

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> s = example(supply={"prospective_current_ka": 2})
    >>> round(start_dip(s.plate, s.built.network, Stage("direct on line"), 104).board_pct, 1)
    4.9

    References
    ----------
    Voltage divider of source, cable and motor at standstill: ΔU/U = 1 − |Z − Zs|/|Z|.
    """
    if network is None:
        return None
    source = complex(network.resistance_ohm, network.reactance_ohm)
    if plate.phases == 3:
        across, cable = plate.line_voltage_v / sqrt(3), cable_ohm * stage.cable_share
    else:
        across, cable = plate.line_voltage_v, 2 * cable_ohm
        if plate.supply.three_phase_source and "N" not in plate.supply.taken:
            source *= 2
    rings = stage.rotor_ratio is not None and stage.rotor_ratio > 1
    whole_motor = stage.series_ohm > 0 or stage.current_limit_a is not None
    amps = plate.locked_rotor.number if whole_motor else starting_a
    motor = rect(across / amps, acos(RINGS_POWER_FACTOR if rings else START_POWER_FACTOR)) + stage.series_ohm
    whole = motor + source + cable
    limit = stage.current_limit_a
    held = 1.0 if limit is None else min(limit * abs(whole) / across, 1.0)
    board, terminals = (100 * held * (1 - abs(whole - part) / abs(whole)) for part in (source, source + cable))
    return StartDip(board, terminals)


def check_start(c: Context, plate: Plate, network: Network | None, stage: Stage, starting_a: float) -> StartDip | None:
    """Dip of the start as a figure, and findings where it or the current is more than the limits allow.

    Parameters
    ----------
    network, stage, starting_a : as for ``start_dip``

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [f.message for f in example(supply={"maximum_start_current_a": 80}).design.findings if f.severity == "stop"]
    ['The start draws 104 A from the line; the limit is 80 A.']

    References
    ----------
    Limits of the supplier's connection rules, as typed.
    """
    s = c.document.supply
    if s.maximum_start_current_a and starting_a > s.maximum_start_current_a * (1 + 1e-6):
        c.find("stop", "start_current_exceeded", f"The start draws {as_read(starting_a)} A from the line; the limit is {s.maximum_start_current_a:g} A.",
               "supply.maximum_start_current_a")  # fmt: skip
    cable = c.cable.impedance_ohm(s.cable_length_m) if c.cable and s.cable_length_m else 0j
    dip = start_dip(plate, network, stage, starting_a, cable)
    if dip is None:
        return None
    assert network
    figure = c.working.add(
        "supply_dip_pct", "Dip of the voltage at the board, at the first moment of the start", "ΔU", dip.board_pct, "%",
        inputs=(plate.locked_rotor, network.prospective), rule=f"motor at standstill, cosφ {START_POWER_FACTOR:g}, in series with source and cable",
        source="voltage divider", field="supply.maximum_dip_pct",
    )  # fmt: skip
    if s.maximum_dip_pct and dip.board_pct > s.maximum_dip_pct * (1 + 1e-6):
        c.find("stop", "supply_dip_exceeded", f"The supply dips by {figure.text} % when the motor starts; the limit is {s.maximum_dip_pct:g} %.",
               "supply.maximum_dip_pct")  # fmt: skip
    return dip
