"""Coils against the control supply."""

from cmath import rect
from math import acos

from volmek.core.catalogue.device_types import Coil, Switching
from volmek.core.context import Context
from volmek.core.devices.device import Check, Objection
from volmek.core.physics.conductors import conductor_resistance_ohm
from volmek.core.results.figures import Figure, as_read

#: Beyond this a control line is limited by its voltage drop, not by its capacitance.
LONGEST_LINE_M = 2000.0
#: Shares of the coil voltage between which a coil surely pulls in and is not overheated (IEC 60947-4-1, 8.2.1.2).
PICK_UP, HIGHEST = 0.85, 1.1
USUAL_LINE_MM2 = 1.5
#: Power factor of an AC coil while it pulls in, typical: small contactors 0.7 to 0.8, large ones less.
INRUSH_POWER_FACTOR = 0.7


def coil_voltage_share(line_ohm: float, coil_voltage_v: float, power_va: float, power_factor: float) -> float:
    """Share of the control voltage that is left at a coil behind a line.

    Parameters
    ----------
    line_ohm : resistance of the control line, there and back [Ω], >= 0
    coil_voltage_v : rated voltage of the coil [V], > 0
    power_va : that it takes at that voltage [VA], for DC [W], > 0
    power_factor : of that power; 1 for DC

    Examples
    --------
    >>> round(coil_voltage_share(4.5, 24, 90, 0.7), 3), round(coil_voltage_share(4.5, 24, 7.5, 1), 3)
    (0.635, 0.945)

    References
    ----------
    Voltage divider of line and coil, Uc²/S at the angle of the coil; the line's reactance does not count at such sections.
    """
    coil = rect(coil_voltage_v**2 / power_va, acos(power_factor))
    return abs(coil) / abs(coil + line_ohm)


def control_line_length_m(sealed_va: float, coil_voltage_v: float, frequency_hz: float, line_uf_per_km: float) -> float:
    """Longest AC control line that still lets the coil drop out.

    Parameters
    ----------
    sealed_va : holding power of the coil [VA], > 0
    coil_voltage_v : [V], > 0
    frequency_hz : [Hz], > 0
    line_uf_per_km : 0.6 for push-buttons (three-wire), 0.3 for a maintained contact (two-wire) [µF/km]

    Examples
    --------
    >>> round(control_line_length_m(8, 230, 50, 0.6))
    126

    References
    ----------
    C ≤ 500·S/Uc² µF at 50 Hz, with 50/f; usual makers' rule for line capacitance.
    """
    return 500 * sealed_va / coil_voltage_v**2 * 50 / frequency_hz / line_uf_per_km * 1000


def fitting_coil(c: Context, k: Switching) -> Coil | None:
    """The coil of a contactor that fits the control voltage, the nearest of several; None without one, or while the voltage is not known.

    Parameters
    ----------
    c : inputs and log of the sizing
    k : the contactor

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> c, _ = example_plate(control={"voltage_v": 24, "kind": "dc"})
    >>> str(fitting_coil(c, c.catalogue.contactors[0]))
    '24 V DC'

    References
    ----------
    IEC 60947-4-1, 8.2.1.2: within ±10 % of the span.
    """
    d = c.document.control
    wanted = d.coil_voltage_v if d.coil_voltage_v is not None else d.voltage_v
    if wanted is None:
        return None
    fitting = [x for x in k.coils if x.kind == d.kind and x.voltage_min_v * 0.9 <= wanted <= x.voltage_max_v * 1.1]
    return min(fitting, key=lambda x: abs((x.voltage_min_v + x.voltage_max_v) / 2 - wanted), default=None)


def coil_name(c: Context, k: Switching) -> str | None:
    """The same coil as it is ordered.

    Parameters
    ----------
    c : inputs and log of the sizing
    k : the contactor

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> c, _ = example_plate()
    >>> coil_name(c, c.catalogue.contactors[0])
    '220–240 V AC'
    """
    coil = fitting_coil(c, k)
    return str(coil) if coil else None


def coil_check(c: Context) -> Check[Switching]:
    """A contactor comes with a coil for the control voltage, of the supply's frequency.

    Parameters
    ----------
    c : inputs and log of the sizing

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> c, _ = example_plate(control={"voltage_v": 60})
    >>> coil_check(c)(c.catalogue.contactors[0]).code
    'coil_not_made'

    References
    ----------
    IEC 60947-4-1, 8.2.1.2.
    """
    d = c.document.control
    wanted = d.coil_voltage_v if d.coil_voltage_v is not None else d.voltage_v

    hertz = c.document.supply.frequency_hz

    def coil(k: Switching) -> Objection | None:
        if wanted is None or fitting_coil(c, k):
            if d.kind == "ac" and hertz and not any(abs(hertz - float(f)) < 2 for f in k.coil_frequency_hz.split("/")):
                return Objection(
                    "coil_frequency",
                    f"the coil of {k.type} is made for {k.coil_frequency_hz} Hz, the supply has {hertz:g} Hz",
                    "supply.frequency_hz",
                )
            return None
        return Objection(
            "coil_not_made",
            f"{k.type} has no {wanted:g} V {d.kind.upper()} coil ({', '.join(map(str, k.coils))})",
            "control.coil_voltage_v" if d.coil_voltage_v is not None else "control.voltage_v",
        )

    return coil


def coil_figures(c: Context, role: str, designation: str, k: Switching, frequency_hz: float) -> list[Figure]:
    """Coil against control voltage, and the longest control line that lets it drop out.

    Parameters
    ----------
    c : inputs and log of the sizing
    role, designation : of the contactor
    k : the contactor
    frequency_hz : of the supply [Hz]

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> example(control={"voltage_v": 230, "coil_voltage_v": 110}).design.findings[0].code
    'coil_voltage_mismatch'

    References
    ----------
    IEC 60947-4-1, 8.2.1.2; IEC 60204-1.
    """
    d, w = c.document.control, c.working
    if d.voltage_v is None:
        c.find(
            "info",
            "control_voltage_unknown",
            "No control voltage is given: the coil cannot be checked.",
            "control.voltage_v",
            device=designation,
        )
        return []
    coil_v = d.coil_voltage_v if d.coil_voltage_v is not None else d.voltage_v
    fitted = fitting_coil(c, k)
    # The band of the catalogue's coil counts only while nobody says what is printed on the coil itself.
    wide = (
        d.coil_voltage_v is None
        and fitted is not None
        and fitted.voltage_min_v * 0.9 <= d.voltage_v <= fitted.voltage_max_v * 1.1
    )
    if abs(d.voltage_v / coil_v - 1) > 0.10 + 1e-9 and not wide:
        harm = "it burns out" if d.voltage_v > coil_v else "it chatters or does not pull in"
        c.find(
            "stop",
            "coil_voltage_mismatch",
            f"A {coil_v:g} V coil on a {d.voltage_v:g} V control supply: {harm}.",
            "control.coil_voltage_v",
            fix=f"Order the {d.voltage_v:g} V coil, or change the control supply.",
            device=designation,
        )
    _check_reading(c, designation, fitted)
    figures = _line_drop(c, role, designation, k, coil_v)
    if d.kind != "ac":
        return figures
    capacity = 0.6 if d.scheme == "three_wire" else 0.3
    length = control_line_length_m(k.sealed_va, coil_v, frequency_hz, capacity)
    if d.line_length_m and d.line_length_m > length:
        c.find(
            "attention",
            "control_line_capacitance",
            f"A control line of {d.line_length_m:g} m can hold the coil of {designation} after stop; {length:.0f} m is the most for "
            f"{k.sealed_va:g} VA at {coil_v:g} V.",
            "control.line_length_m",
            device=designation,
        )
    if length > LONGEST_LINE_M:
        return figures
    uc = w.typed(
        "control.coil_voltage_v" if d.coil_voltage_v is not None else "control.voltage_v",
        "Coil voltage",
        "Uc",
        coil_v,
        "V",
    )
    sealed = w.add(
        f"{role}.sealed_va", f"Holding power of {k.type}", "S", k.sealed_va, "VA", source=c.catalogue.source_of(k.type)
    )
    return [
        *figures,
        w.add(
            f"{role}.control_line_m",
            "Longest control line that still lets the coil drop out",
            "l",
            length,
            "m",
            formula=f"500·S/Uc² · 50/{frequency_hz:g} / {capacity} · 1000",
            inputs=(sealed, uc),
            rule=f"line capacitance {capacity} µF/km ({'push-buttons' if capacity == 0.6 else 'maintained contact'})",
            source="usual makers' rule; default capacitance",
            note="A longer line can hold the coil after stop.",
        ),
    ]


def _check_reading(c: Context, designation: str, fitted: Coil | None) -> None:
    """A measured control voltage against the coil's limits."""
    reads, own = c.document.control.measured_voltage_v, c.document.control.coil_voltage_v
    if own is not None:
        least, most, made_for = own, own, f"{own:g} V"
    elif fitted is not None:
        least, most, made_for = fitted.voltage_min_v, fitted.voltage_max_v, str(fitted)
    else:
        return
    if reads is None:
        return
    low, high = PICK_UP * least, HIGHEST * most
    if reads < low - 1e-9:
        c.find(
            "stop",
            "coil_voltage_low",
            f"The control supply reads {as_read(reads)} V; a coil for {made_for} is sure to pull in only from {as_read(low)} V.",
            "control.measured_voltage_v",
            device=designation,
        )
    elif reads > high + 1e-9:
        c.find(
            "stop",
            "coil_voltage_high",
            f"The control supply reads {as_read(reads)} V; a coil for {made_for} stands {as_read(high)} V at most.",
            "control.measured_voltage_v",
            device=designation,
        )


def _line_drop(c: Context, role: str, designation: str, k: Switching, coil_v: float) -> list[Figure]:
    """Voltage left at the coil while it pulls in at the end of the control line."""
    d, w = c.document.control, c.working
    if d.line_length_m is None:
        return []
    ac = d.kind == "ac"
    length = w.typed("control.line_length_m", "Length of the control line", "lc", d.line_length_m, "m")
    section = w.add("control.line_section_mm2", "Cable size of the control line", "S", d.line_section_mm2 or USUAL_LINE_MM2, "mm²",
                    field="control.line_section_mm2", typical=d.line_section_mm2 is None,
                    rule="as typed" if d.line_section_mm2 else "usual control cable", source="typed" if d.line_section_mm2 else "default")  # fmt: skip
    power = w.add(f"{role}.coil_pull_in_va", f"Power that {designation} takes to pull in", "A", k.inrush_va, "VA" if ac else "W",
                  rule="from the catalogue" if ac else "as the AC coil: the catalogue gives no power of the DC coil", typical=not ac,
                  source=c.catalogue.source_of(k.type))  # fmt: skip
    assert length
    line_ohm = 2 * conductor_resistance_ohm(length.number, section.number, warm=True)
    supply_v = d.measured_voltage_v or d.voltage_v or coil_v
    factor = INRUSH_POWER_FACTOR if ac else 1.0

    def left_pct(power_va: float) -> float:
        return 100 * supply_v / coil_v * coil_voltage_share(line_ohm, coil_v, power_va, factor)

    left = w.add(f"{role}.coil_voltage_pct", f"Voltage left at the coil of {designation} while it pulls in", "UA",
                 left_pct(power.number), "%", inputs=(length, section, power),
                 rule=f"coil and line as a divider of {as_read(supply_v)} V" + (f", cosφ {factor:g} at pull-in" if ac else "") + "; at least 85 % at pull-in",
                 source="IEC 60947-4-1, 8.2.1.2")  # fmt: skip
    if left.number >= 100 * PICK_UP - 1e-9:
        return [left]
    if ac or left_pct(k.sealed_va) < 100 * PICK_UP - 1e-9:
        c.find("stop", "control_line_drop", f"{left.text} % of the coil voltage is left at {designation} while it pulls in; 85 % is needed.",
               "control.line_length_m", device=designation)  # fmt: skip
    else:
        c.find("attention", "control_line_drop", f"If the DC coil of {designation} takes {power.text} W to pull in, {left.text} % of its voltage is left and "
               "85 % is needed: read what it takes on its data sheet.", "control.line_length_m", device=designation)  # fmt: skip
    return [left]
