"""Devices that only the circuit knows of: buttons, lamps, relays, time relays, field contacts, capacitors, resistors."""

from volmek.core.catalogue.device_types import Timer
from volmek.core.circuit.model.netlist import Circuit, makes_at_rest
from volmek.core.circuit.model.netlist import Device as Part
from volmek.core.context import Context
from volmek.core.devices.device import Device, Required, Selected
from volmek.core.devices.settings import Settings, known

#: Kinds of the netlist that are devices of the design, with their role.
ROLES = {
    "relay": "control_relay", "timer": "time_relay", "button": "push_button", "emergency_stop": "emergency_stop", "selector": "selector",
    "field": "field_contact", "monitor": "phase_monitor", "lamp": "lamp", "buzzer": "buzzer", "heater": "heater", "capacitor": "capacitor",
    "resistor": "resistor", "transformer": "autotransformer",
}  # fmt: skip
BREAKERS = ("heater_breaker", "control_breaker", "primary_breaker")
#: Those of them that carry the motor's power, and stand in the single-line.
IN_POWER = ("capacitor", "resistor", "autotransformer")
CONTROL_ONLY = (*(role for role in ROLES.values() if role not in (*IN_POWER, "phase_monitor")), "heater_breaker")


def circuit_parts(c: Context, circuit: Circuit, sized: list[Device]) -> list[Device]:
    """A device of the design for each device of the netlist that no method has sized.

    Parameters
    ----------
    circuit : of the starter
    sized : devices that the design has already

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [d.designation for d in example().design.devices if d.role == "push_button"]
    ['S1', 'S2']
    """
    known = {d.designation for d in sized}
    found = []
    for part in circuit.devices.values():
        role = ROLES.get(part.kind) if part.kind != "breaker" else part.role if part.role in BREAKERS else ""
        if part.designation not in known and role:
            found.append(_device(c, circuit, sized, part, role))
    return found


def _device(c: Context, circuit: Circuit, sized: list[Device], part: Part, role: str) -> Device:
    d = c.document.control
    contacts = _contacts(circuit, part)
    at_control_voltage = part.kind in ("relay", "timer", "lamp", "buzzer")
    required = Required(
        contacts=contacts or None,
        voltage_v=d.voltage_v if at_control_voltage else None,
        capacitance_uf=_capacitance_uf(sized, part) if part.kind == "capacitor" else None,
    )
    row = _timer(c, part.time_s) if part.kind == "timer" else None
    chosen = row.type if row else None
    settings = Settings(time_s=part.time_s if part.kind == "timer" else None)
    figure = c.working.add(
        f"{role}.{part.designation}", f"{part.label} {part.designation}", "", chosen or "not in the catalogue",
        rule=", ".join(str(v) for v in known(required).values()) or "as the circuit needs it", source="circuit of the starter",
    )  # fmt: skip
    return Device(part.designation, role, role if role in ("autotransformer", "phase_monitor") else part.kind, part.label, required, Selected(chosen), settings,
                  (figure,), figure, branch=True)  # fmt: skip


def _contacts(circuit: Circuit, part: Part) -> str:
    """Contacts that are wired, as they are ordered: ``1 NO + 2 NC``."""
    mine = [
        x
        for x in circuit.contacts
        if x.device == part.designation and all(circuit.number_of.get(t) for t in x.terminals)
    ]
    if part.kind in ("lamp", "buzzer", "heater", "capacitor", "resistor", "transformer"):
        return ""
    makes = sum(makes_at_rest(x) for x in mine)
    counted = [f"{n} {word}" for n, word in ((makes, "NO"), (len(mine) - makes, "NC")) if n]
    return " + ".join(counted)


def _capacitance_uf(sized: list[Device], part: Part) -> float | None:
    name = f"motor.{'run' if part.role == 'run_capacitor' else 'start'}_capacitor_uf"
    return next((f.number for d in sized for f in d.figures if f.id == name), None)


def _timer(c: Context, seconds: float) -> Timer | None:
    """The first on-delay relay of the catalogue whose range holds a time, for the control voltage."""
    volts, kind = c.document.control.voltage_v, c.document.control.kind
    for t in c.catalogue.timers:
        supplied = volts is None or any(x.kind == kind and x.covers(volts) for x in t.coils)
        if t.kind == "on_delay" and t.range_min_s <= seconds <= t.range_max_s and supplied:
            return t
    return None
