"""Coils against the control supply."""

from volmek.core.context import Context
from volmek.core.device_types import Coil, Switching
from volmek.core.devices.device import Check, Objection

#: Beyond this a control line is limited by its voltage drop, not by its capacitance.
LONGEST_LINE_M = 2000.0


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
    d = c.document.control
    wanted = d.coil_voltage_v if d.coil_voltage_v is not None else d.voltage_v
    if wanted is None:
        return None
    fitting = [x for x in k.coils if x.kind == d.kind and x.voltage_min_v * 0.9 <= wanted <= x.voltage_max_v * 1.1]
    return min(fitting, key=lambda x: abs((x.voltage_min_v + x.voltage_max_v) / 2 - wanted), default=None)


def coil_name(c: Context, k: Switching) -> str | None:
    coil = fitting_coil(c, k)
    return str(coil) if coil else None


def coil_check(c: Context) -> Check[Switching]:
    d = c.document.control
    wanted = d.coil_voltage_v if d.coil_voltage_v is not None else d.voltage_v

    def coil(k: Switching) -> Objection | None:
        if wanted is None or fitting_coil(c, k):
            return None
        return Objection(
            "coil_not_made",
            f"{k.type} has no {wanted:g} V {d.kind.upper()} coil ({', '.join(map(str, k.coils))})",
            "control.coil_voltage_v" if d.coil_voltage_v is not None else "control.voltage_v",
        )

    return coil


def coil_figures(c: Context, role: str, designation: str, k: Switching, frequency_hz: float) -> list[str]:
    """Coil against control voltage, and the longest control line that lets it drop out."""
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
    if d.kind != "ac":
        return []
    capacity = 0.6 if d.scheme == "three_wire" else 0.3
    length = control_line_length_m(k.sealed_va, coil_v, frequency_hz, capacity)
    if length > LONGEST_LINE_M:
        return []
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
        ).id
    ]
