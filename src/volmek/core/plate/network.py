"""The supply network: prospective current at the board, least fault current at the motor, disconnection time."""

from dataclasses import dataclass
from math import hypot, sqrt

from volmek.core.context import Context
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, within
from volmek.data.loader import standard

RESISTIVITY_20C_COPPER = 0.0185  # Ω·mm²/m
REACTANCE_OHM_PER_M = 0.08e-3
#: Resistance of a conductor at the end of a fault over that at 20 °C.
HOT = 1.2


def transformer_prospective_current_a(
    transformer_kva: float, uk_pct: float, line_voltage_v: float, voltage_factor: float = 1.10
) -> float:
    """Three-phase prospective current at a transformer's terminals.

    Parameters
    ----------
    transformer_kva : rated power [kVA], > 0
    uk_pct : short-circuit voltage [%], > 0
    line_voltage_v : no-load secondary voltage [V], > 0
    voltage_factor : c, 1.10 where the supply may stand 10 % high, 1.05 at 6 %

    Examples
    --------
    >>> round(transformer_prospective_current_a(250, 4, 400))
    9923

    References
    ----------
    IEC 60909-0: Ik = c·S/(√3·U·uk).
    """
    return voltage_factor * transformer_kva * 1000 / (sqrt(3) * line_voltage_v * uk_pct / 100)


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


def protective_section_mm2(section_mm2: float) -> float:
    """Section of the protective conductor that belongs to a line conductor.

    Examples
    --------
    >>> protective_section_mm2(10), protective_section_mm2(25), protective_section_mm2(95)
    (10, 16, 47.5)

    References
    ----------
    IEC 60364-5-54, Table 54.2.
    """
    return section_mm2 if section_mm2 <= 16 else 16 if section_mm2 <= 35 else section_mm2 / 2


@dataclass(frozen=True, slots=True)
class Network:
    """What is known of the supply: prospective current at the board and the source's impedance without c."""

    prospective: Figure | None
    resistance_ohm: float
    reactance_ohm: float
    current_a: float


def read_network(c: Context, plate: Plate) -> Network | None:
    """Prospective current at the board: as given, or from the transformer and the cable to the board."""
    s, w, a = c.document.supply, c.working, c.document.assumptions
    volts = plate.three_phase_voltage_v
    given = w.typed(
        "supply.prospective_current_ka", "Prospective current at the board", "Ik", s.prospective_current_ka, "kA"
    )
    if given:
        r, x = split(volts / (sqrt(3) * given.number * 1000), a.transformer_r_over_x)
        figure = w.add(
            "prospective_current_ka",
            "Prospective current used",
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
            "The prospective current is not known"
            + (f" ({have} alone does not give it)" if have else "")
            + ": breaking capacity is not checked.",
            "supply.prospective_current_ka",
        )
        return None
    kva = w.typed("supply.transformer_kva", "Transformer", "S", s.transformer_kva, "kVA")
    uk = w.typed("supply.transformer_uk_pct", "Short-circuit voltage", "uk%", s.transformer_uk_pct, "%")
    u = w.add(
        "network_voltage_v", "Voltage between lines", "U", volts, "V", field="supply.line_voltage_v", source="typed"
    )
    assert kva and uk
    r, x = split(volts**2 * uk.number / 100 / (kva.number * 1000), a.transformer_r_over_x)
    inputs: list[Figure | None] = [kva, u, uk]
    factor = a.prospective_voltage_factor
    formula = f"{factor:g}·S/(√3·U·uk%/100)"
    rule = f"c = {factor:g}"
    if s.supply_cable_length_m and s.supply_cable_section_mm2:
        length = w.typed("supply.supply_cable_length_m", "Cable to the board", "L", s.supply_cable_length_m, "m")
        section = w.typed("supply.supply_cable_section_mm2", "Its section", "A", s.supply_cable_section_mm2, "mm²")
        r += RESISTIVITY_20C_COPPER * s.supply_cable_length_m / s.supply_cable_section_mm2
        x += REACTANCE_OHM_PER_M * s.supply_cable_length_m
        inputs += [length, section]
        formula = f"{factor:g}·U/(√3·|Z|)/1000, Z = transformer + 0.0185·L/A + j·0.08·L/1000"
        rule += f"; transformer R/X = {a.transformer_r_over_x:.3g}, copper at 20 °C"
    current = factor * volts / (sqrt(3) * hypot(r, x))
    running = s.running_motors_current_a or 0.0
    if running > 0.01 * current:
        inputs.append(w.typed("supply.running_motors_current_a", "Motors running on the bus", "ΣIn", running, "A"))
        current += a.running_motors_inrush_ratio * running
        formula += f" + {a.running_motors_inrush_ratio:g}·ΣIn/1000"
        rule += f"; running motors feed back {a.running_motors_inrush_ratio:g} times their current"
    figure = w.add(
        "prospective_current_ka",
        "Prospective current used",
        "Ik",
        current / 1000,
        "kA",
        formula=formula,
        inputs=tuple(inputs),
        rule=rule,
        source="IEC 60909-0",
    )
    return Network(figure, r, x, current)


def check_disconnection(
    c: Context, plate: Plate, network: Network | None, upper_edge_a: float | None, slow_time_s: object, device: str
) -> None:
    """Least fault current at the motor's terminals against the device, when the motor cable is known.

    Parameters
    ----------
    upper_edge_a : current at which the device surely trips at once, None for a fuse
    slow_time_s : function of the current [A] that gives its latest clearing time [s]
    device : its designation
    """
    s, w = c.document.supply, c.working
    if network is None or s.cable_length_m is None or s.cable_section_mm2 is None:
        return
    assert callable(slow_time_s)
    c_min = 0.90 if c.document.assumptions.prospective_voltage_factor > 1.05 else 0.95
    volts, system = plate.three_phase_voltage_v, (s.system or "tn").upper()
    line = HOT * RESISTIVITY_20C_COPPER * s.cable_length_m / s.cable_section_mm2
    earth = HOT * RESISTIVITY_20C_COPPER * s.cable_length_m / protective_section_mm2(s.cable_section_mm2)
    reactance = REACTANCE_OHM_PER_M * s.cable_length_m
    between = c_min * volts / (2 * hypot(network.resistance_ohm + line, network.reactance_ohm + reactance))
    to_earth = (
        c_min * volts / sqrt(3) / hypot(network.resistance_ohm + line + earth, network.reactance_ohm + 2 * reactance)
    )
    length = w.typed("supply.cable_length_m", "Cable to the motor", "L", s.cable_length_m, "m")
    section = w.typed("supply.cable_section_mm2", "Its section", "A", s.cable_section_mm2, "mm²")
    least = w.add(
        "least_fault_current_a",
        "Least fault current at the motor",
        "Ik,min",
        min(between, to_earth),
        "A",
        inputs=(network.prospective, length, section),
        rule=f"c = {c_min:g}, copper hot (×1.2); between two lines {between:.0f} A, line to earth {to_earth:.0f} A",
        source="IEC 60909-0; IEC 60364-4-41",
    )
    if system == "TT":
        c.find(
            "attention",
            "tt_needs_rcd",
            "In a TT system the earth fault current rests on two electrodes: disconnection needs a "
            "residual-current device unless the measured loop proves otherwise.",
            "supply.system",
            device=device,
        )
        return
    if upper_edge_a is not None and least.number >= upper_edge_a:
        return
    time = slow_time_s(least.number)
    u0 = volts / sqrt(3)
    row = next(
        r for r in standard("disconnection_time_iec60364_4_41") if r["system"] == "TN" and u0 <= r["u0_max_v"] + 2
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
