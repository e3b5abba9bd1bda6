"""The supply network: prospective fault current at the board, least fault current at the motor, disconnection time."""

from dataclasses import dataclass
from math import hypot, inf, sqrt

from volmek.core.context import Context
from volmek.core.physics.conductors import (
    END_OF_FAULT,
    REACTANCE_OHM_PER_M,
    conductor_resistance_ohm,
    protective_section_mm2,
)
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, within
from volmek.data.loader import standard


def transformer_prospective_current_a(
    transformer_kva: float, uk_pct: float, line_voltage_v: float, voltage_factor: float = 1.10, phases: int = 3
) -> float:
    """Prospective fault current at a transformer's terminals.

    Parameters
    ----------
    transformer_kva : rated power [kVA], > 0
    uk_pct : short-circuit voltage [%], > 0
    line_voltage_v : no-load secondary voltage [V], > 0
    voltage_factor : c, 1.10 where the supply may stand 10 % high, 1.05 at 6 %
    phases : 3, or 1 for a single-phase transformer and the whole winding of a split-phase one

    Examples
    --------
    >>> round(transformer_prospective_current_a(250, 4, 400)), round(transformer_prospective_current_a(25, 4, 240, 1.0, 1))
    (9923, 2604)

    References
    ----------
    IEC 60909-0: Ik = c·S/(√3·U·uk); single-phase c·S/(U·uk).
    """
    root = sqrt(3) if phases == 3 else 1.0
    return voltage_factor * transformer_kva * 1000 / (root * line_voltage_v * uk_pct / 100)


def split(impedance_ohm: float, r_over_x: float) -> tuple[float, float]:
    """Resistance and reactance of an impedance of known ratio.

    Examples
    --------
    >>> tuple(round(v, 4) for v in split(0.0256, 1 / 3))
    (0.0081, 0.0243)

    References
    ----------
    Z² = R² + X².
    """
    x = impedance_ohm / sqrt(1 + r_over_x**2)
    return r_over_x * x, x


@dataclass(frozen=True, slots=True)
class Network:
    """Impedance and prospective fault current of the supply.

    Attributes
    ----------
    prospective : current at the board, between the conductors that come to the starter
    resistance_ohm, reactance_ohm : of the source without c: per phase of a three-phase network, else of the loop of both conductors
    current_a : the prospective fault current [A]
    """

    prospective: Figure | None
    resistance_ohm: float
    reactance_ohm: float
    current_a: float


#: Line-to-neutral current at a split-phase transformer over that between its lines.
HALF_WINDING = 1.5


def _share(plate: Plate) -> tuple[float, str]:
    """Current between the conductors taken over that of the network's own formula, and why."""
    taken, supply = plate.supply.taken, plate.supply
    if plate.phases == 3 or supply.conductors == "single_phase":
        return 1.0, ""
    if supply.conductors == "split_phase":
        return (
            (1.0, "") if "N" not in taken else (HALF_WINDING, "line to neutral of a split-phase transformer, typical")
        )
    if "N" in taken:
        return 1.0, "line to neutral near the transformer about as three-phase"
    return sqrt(3) / 2, "between two lines √3/2 of three-phase"


def read_network(c: Context, plate: Plate) -> Network | None:
    """Prospective fault current at the board: as given, or from the transformer and the cable to the board.

    References
    ----------
    IEC 60909-0: three-phase c·U/(√3·Z), between two lines √3/2 of it, single-phase and split-phase c·U/Z of the loop.
    """
    s, w, a = c.document.supply, c.working, c.document.assumptions
    three = plate.supply.three_phase_source
    volts = plate.supply.line_voltage_v or plate.line_voltage_v
    root = sqrt(3) if three else 1.0
    share, why = _share(plate)
    given = w.typed(
        "supply.prospective_current_ka", "Prospective fault current at the board", "Ik", s.prospective_current_ka, "kA"
    )
    if given:
        r, x = split(volts / (root * given.number * 1000), a.transformer_r_over_x)
        figure = w.add(
            "prospective_current_ka",
            "Prospective fault current used",
            "Ik",
            given.number,
            "kA",
            inputs=(given,),
            rule="as given, at the board",
            source="IEC 60909-0",
        )
        return Network(figure, r, x, given.number * 1000)
    if s.transformer_kva is None or s.transformer_uk_pct is None:
        have = "uk" if s.transformer_uk_pct else "the transformer's power" if s.transformer_kva else ""
        c.find(
            "attention",
            "prospective_current_unknown",
            "The prospective fault current is not known"
            + (f" ({have} alone does not give it)" if have else "")
            + ": breaking capacity is not checked.",
            "supply.prospective_current_ka",
        )
        return None
    kva = w.typed("supply.transformer_kva", "Transformer", "S", s.transformer_kva, "kVA")
    uk = w.typed("supply.transformer_uk_pct", "Short-circuit voltage", "uk%", s.transformer_uk_pct, "%")
    between = (
        "Voltage between line and neutral" if plate.supply.conductors == "single_phase" else "Voltage between lines"
    )
    u = w.add("network_voltage_v", between, "U", volts, "V", field="supply.line_voltage_v", source="typed")
    assert kva and uk
    r, x = split(volts**2 * uk.number / 100 / (kva.number * 1000), a.transformer_r_over_x)
    inputs: list[Figure | None] = [kva, u, uk]
    factor = a.prospective_voltage_factor
    over = "√3·" if three else ""
    formula = f"{factor:g}·S/({over}U·uk%/100)"
    rule = f"c = {factor:g}"
    if s.supply_cable_length_m and s.supply_cable_section_mm2:
        length = w.typed("supply.supply_cable_length_m", "Cable to the board", "L", s.supply_cable_length_m, "m")
        section = w.typed(
            "supply.supply_cable_section_mm2", "Cable to the board, size", "A", s.supply_cable_section_mm2, "mm²"
        )
        ways = 1 if three else 2
        r += ways * conductor_resistance_ohm(s.supply_cable_length_m, s.supply_cable_section_mm2)
        x += ways * REACTANCE_OHM_PER_M * s.supply_cable_length_m
        inputs += [length, section]
        there_and_back = "" if three else "2·"
        formula = f"{factor:g}·U/({over}|Z|)/1000, Z = transformer + {there_and_back}0.0185·L/A + j·{there_and_back}0.08·L/1000"
        rule += f"; transformer R/X = {a.transformer_r_over_x:.3g}, copper at 20 °C" + (
            "" if three else ", there and back"
        )
    current = factor * volts / (root * hypot(r, x))
    if share != 1.0:
        current *= share
        formula = f"{share:.3g}·{formula}"
    rule += f"; {why}" if why else ""
    running = s.running_motors_current_a or 0.0
    if running > 0.01 * current:
        inputs.append(w.typed("supply.running_motors_current_a", "Motors running on the bus", "ΣIn", running, "A"))
        current += a.running_motors_inrush_ratio * running
        formula += f" + {a.running_motors_inrush_ratio:g}·ΣIn/1000"
        rule += f"; running motors feed back {a.running_motors_inrush_ratio:g} times their current"
    figure = w.add(
        "prospective_current_ka",
        "Prospective fault current used",
        "Ik",
        current / 1000,
        "kA",
        formula=formula,
        inputs=tuple(inputs),
        rule=rule,
        source="IEC 60909-0",
        typical=share == HALF_WINDING,
    )
    return Network(figure, r, x, current)


def _fault_currents_a(
    plate: Plate, network: Network, line_ohm: complex, earth_ohm: complex, voltage_factor: float, loop_ohm: float | None
) -> tuple[float, float | None]:
    """Least current of a fault between two conductors at the motor, and of one to earth, copper hot; None for what two electrodes decide.

    In an IT network the fault to earth is the second one, on another line (or on the neutral, where there is one), with a way back as long.
    """
    supply = plate.supply
    volts = supply.line_voltage_v or plate.line_voltage_v
    source = complex(network.resistance_ohm, network.reactance_ohm)
    earthed = supply.earthings[0] if len(supply.earthings) == 1 else "tn"
    if supply.three_phase_source:
        u0, returning = volts / sqrt(3), 2 * line_ohm
        between = (
            voltage_factor * u0 / abs(source + returning)
            if "N" in supply.taken
            else voltage_factor * volts / (2 * abs(source + line_ohm))
        )
    else:
        u0 = volts * (0.5 if supply.conductors == "split_phase" else 1.0)
        between = voltage_factor * plate.line_voltage_v / abs(source + 2 * line_ohm)
    if earthed == "it":
        across = u0 if supply.neutral is not False else sqrt(3) * u0
        return between, voltage_factor * across / (2 * abs(source + line_ohm + earth_ohm))
    if loop_ohm is not None:
        return between, voltage_factor * u0 / abs(loop_ohm + line_ohm + earth_ohm)
    if earthed == "tt":
        return between, None
    return between, voltage_factor * u0 / abs(source + line_ohm + earth_ohm)


def _earth_fault_words(plate: Plate, amps: float | None, measured: bool, *, said: bool) -> str:
    """Path of the current to earth, in words."""
    if amps is None:
        return "to earth by the electrodes, not known"
    if plate.supply.earthings == ("it",):
        way = {None: "neutral taken as laid", True: "with the neutral laid", False: "no neutral laid"}[
            plate.supply.neutral
        ]
        return f"second fault {amps:.0f} A ({way}, all exposed parts earthed together)"
    words = f"line to earth {amps:.0f} A"
    if measured:
        return f"{words} by the loop measured"
    return words if said else f"{words} (TN assumed, the system is not given)"


def check_disconnection(
    c: Context, plate: Plate, network: Network | None, upper_edge_a: float | None, slow_time_s: object, device: str
) -> Figure | None:
    """Minimum fault current at the motor's terminals against the device, when the motor cable is known.

    Parameters
    ----------
    upper_edge_a : current at which the device surely trips at once, None for a fuse
    slow_time_s : function of the current [A] that gives its latest clearing time [s]
    device : its designation

    Returns
    -------
    The least fault current; None where cable or network are not known.
    """
    s, w = c.document.supply, c.working
    if network is None or s.cable_length_m is None or c.cable is None:
        return None
    assert callable(slow_time_s)
    c_min = 0.90 if c.document.assumptions.prospective_voltage_factor > 1.05 else 0.95
    system = (s.system or "tn").upper()
    if s.earth_loop_ohm and system == "IT":
        c.find("attention", "earth_loop_unused", "In an IT system a first fault closes no loop: the measured one is not used, the second fault is worked out from the cables.",
               "supply.earth_loop_ohm", device=device)  # fmt: skip
    section_mm2, parallel = c.cable.section_mm2, c.cable.parallel
    reactance = complex(0, REACTANCE_OHM_PER_M * s.cable_length_m)
    line, earth = (
        (END_OF_FAULT * conductor_resistance_ohm(s.cable_length_m, mm2) + reactance) / parallel
        for mm2 in (section_mm2, protective_section_mm2(section_mm2))
    )
    between, to_earth = _fault_currents_a(plate, network, line, earth, c_min, s.earth_loop_ohm)
    loop = w.typed("supply.earth_loop_ohm", "Earth fault loop measured at the board", "Zs", s.earth_loop_ohm, "Ω")
    to_earth_said = _earth_fault_words(plate, to_earth, loop is not None, said=s.system is not None)
    length = w.typed("supply.cable_length_m", "Cable to the motor", "L", s.cable_length_m, "m")
    section = c.section_figure()
    least = w.add(
        "least_fault_current_a",
        "Minimum fault current at the motor",
        "Ik,min",
        min(between, to_earth or inf),
        "A",
        inputs=(network.prospective, loop, length, section),
        rule=f"c = {c_min:g}, copper hot (×1.2); between conductors {between:.0f} A, {to_earth_said}",
        source="IEC 60909-0; IEC 60364-4-41",
    )
    if to_earth is None:
        c.find(
            "attention",
            "tt_needs_rcd",
            "In a TT system the earth fault current rests on two electrodes: disconnection needs a "
            "residual-current device unless the measured loop proves otherwise.",
            "supply.earth_loop_ohm",
            device=device,
        )
        return least
    if upper_edge_a is not None and least.number >= upper_edge_a:
        return least
    time = slow_time_s(least.number)
    u0 = plate.supply.phase_voltage_v or plate.line_voltage_v
    rows = "TT" if system == "TT" and to_earth is not None and to_earth <= between else "TN"
    row = next(
        r for r in standard("disconnection_time_iec60364_4_41") if r["system"] == rows and u0 <= r["u0_max_v"] + 2
    )
    final = plate.design.number <= 32
    allowed = row["final_circuit_up_to_32a_s"] if final else row["distribution_s"]
    said = within(time)
    if time > allowed:
        c.find(
            "stop",
            "disconnection_too_slow",
            f"A fault at the motor draws only {least.text} A: {device} clears it {said}, {allowed:g} s is allowed.",
            "supply.cable_section_mm2",
            rule=f"{system} system, U0 = {u0:.0f} V, {'final circuit up to 32 A' if final else 'above 32 A'}",
            device=device,
        )
    else:
        c.find(
            "info",
            "disconnection_by_slow_part",
            f"A fault at the motor draws {least.text} A: {device} clears it {said}, within the {allowed:g} s allowed, but not at once.",
            "supply.cable_section_mm2",
            device=device,
        )
    return least
