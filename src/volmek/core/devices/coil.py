"""Coils against the control supply."""

from volmek.core.catalogue.device_types import Coil, Switching
from volmek.core.context import Context
from volmek.core.devices.device import Check, Objection
from volmek.core.physics.conductors import COPPER_WARM_OHM_MM2_PER_M, conductor_resistance_ohm
from volmek.core.results.figures import Figure, as_read

#: Beyond this a control line is limited by its voltage drop, not by its capacitance.
LONGEST_LINE_M = 2000.0
#: Shares of the coil voltage between which a coil surely pulls in and is not overheated (IEC 60947-4-1, 8.2.1.2).
PICK_UP, HIGHEST = 0.85, 1.1
USUAL_LINE_MM2 = 1.5


def control_line_drop_v(length_m: float, section_mm2: float, current_a: float) -> float:
    """Voltage lost on a control line, there and back.

    Parameters
    ----------
    length_m : one way [m], > 0
    section_mm2 : copper [mm²], > 0
    current_a : [A], >= 0

    Examples
    --------
    >>> round(control_line_drop_v(200, 1.5, 7.5), 1)
    45.0

    References
    ----------
    2·ρ·l/S·I with ρ of warm copper; the line's reactance does not count at such sections.
    """
    return 2 * conductor_resistance_ohm(length_m, section_mm2, warm=True) * current_a


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
    wide = fitted is not None and fitted.voltage_min_v * 0.9 <= d.voltage_v <= fitted.voltage_max_v * 1.1
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
    if d.kind != "ac":
        return []
    figures = _line_drop(c, role, designation, k, coil_v)
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
    reads = c.document.control.measured_voltage_v
    if reads is None or fitted is None:
        return
    low, high = PICK_UP * fitted.voltage_min_v, HIGHEST * fitted.voltage_max_v
    if reads < low - 1e-9:
        c.find(
            "stop",
            "coil_voltage_low",
            f"The control supply reads {as_read(reads)} V; a coil for {fitted} pulls in surely from {as_read(low)} V.",
            "control.measured_voltage_v",
            device=designation,
        )
    elif reads > high + 1e-9:
        c.find(
            "stop",
            "coil_voltage_high",
            f"The control supply reads {as_read(reads)} V; a coil for {fitted} stands {as_read(high)} V at most.",
            "control.measured_voltage_v",
            device=designation,
        )


def _line_drop(c: Context, role: str, designation: str, k: Switching, coil_v: float) -> list[Figure]:
    """Voltage left at the coil while it pulls in at the end of the control line."""
    d, w = c.document.control, c.working
    if d.line_length_m is None:
        return []
    length = w.typed("control.line_length_m", "Length of the control line", "lc", d.line_length_m, "m")
    section = w.add("control.line_section_mm2", "Section of the control line", "S", d.line_section_mm2 or USUAL_LINE_MM2, "mm²",
                    field="control.line_section_mm2", typical=d.line_section_mm2 is None,
                    rule="as typed" if d.line_section_mm2 else "usual control cable", source="typed" if d.line_section_mm2 else "default")  # fmt: skip
    amps = w.add(f"{role}.coil_inrush_a", f"Pull-in current of {designation}", "Ip", k.inrush_va / coil_v, "A",
                 formula="A / Uc", rule="pull-in power over the coil voltage", source=c.catalogue.source_of(k.type))  # fmt: skip
    assert length
    fall = control_line_drop_v(length.number, section.number, amps.number)
    supply_v = d.measured_voltage_v or d.voltage_v or coil_v
    left = w.add(f"{role}.coil_voltage_pct", f"Voltage left at the coil of {designation} while it pulls in", "UA",
                 100 * (supply_v - fall) / coil_v, "%", inputs=(length, section, amps),
                 formula=f"100·({as_read(supply_v)} − 2·{COPPER_WARM_OHM_MM2_PER_M}·lc/S·Ip)/{as_read(coil_v)}",
                 rule="at least 85 % of the coil voltage at pull-in", source="IEC 60947-4-1, 8.2.1.2")  # fmt: skip
    if left.number < 100 * PICK_UP - 1e-9:
        c.find(
            "stop",
            "control_line_drop",
            f"{left.text} % of the coil voltage is left at {designation} while it pulls in; 85 % is needed.",
            "control.line_length_m",
            device=designation,
        )
    return [left]
