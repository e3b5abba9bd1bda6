"""The phase-failure monitor: three- or four-wire, made for the line voltage."""

from typing import Any

from volmek.core.catalogue.device_types import PhaseMonitor
from volmek.core.context import Context
from volmek.core.devices.device import Device, Objection, Required, Selected, override_marks, pick_spare
from volmek.core.devices.settings import Settings
from volmek.core.installation.designations import PHASE_MONITOR
from volmek.core.phase_loss.monitor_settings import monitor_settings, thresholds
from volmek.core.physics.motor_model import MotorModel
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import as_read
from volmek.core.start.start import motor_of

#: Settings whose range the catalogue tells, by the stem of its columns.
RANGES = {
    "asymmetry_pct": "asymmetry",
    "undervoltage_pct": "undervoltage",
    "overvoltage_pct": "overvoltage",
    "loss_delay_s": "delay",
}


def select_monitor(c: Context, plate: Plate) -> list[Device]:
    """The phase monitor asked for, with the settings to begin with.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("F2", control={"phase_monitor": "four_wire"}).settings.undervoltage_pct
    90.0
    """
    wires = c.document.control.phase_monitor
    if wires in (None, "none"):
        return []
    role, designation, line_v = "phase_monitor", PHASE_MONITOR, plate.line_voltage_v
    if plate.phases == 1:
        c.find("attention", "monitor_single_phase", "A phase monitor has nothing to monitor on a single-phase starter.",
               "control.phase_monitor")  # fmt: skip
        return []
    if wires == "four_wire" and c.document.supply.neutral is False:
        c.find("stop", "monitor_needs_neutral", "A four-wire monitor needs the neutral, and the supply has none.",
               "control.phase_monitor", device=designation)  # fmt: skip

    def of_kind(m: PhaseMonitor) -> Objection | None:
        if m.kind == wires:
            return None
        return Objection("monitor_kind", f"{m.type} is a {m.kind.replace('_', '-')} monitor", "control.phase_monitor")

    def voltage(m: PhaseMonitor) -> Objection | None:
        if m.voltage_min_v * 0.95 <= line_v <= m.voltage_max_v * 1.05:
            return None
        return Objection(
            "monitor_voltage",
            f"{m.type} is made for {m.voltage_min_v:g} to {m.voltage_max_v:g} V; the supply has {as_read(line_v)} V",
            "supply.line_voltage_v",
        )

    m, candidates = pick_spare(
        c,
        role,
        designation,
        c.catalogue.phase_monitors,
        [of_kind, voltage],
        what="phase monitor",
        field="control.phase_monitor",
    )
    chosen = c.working.add(f"{role}.type", "Phase monitor", "", m.type if m else "none in the catalogue",
                           rule="three- or four-wire as chosen, made for the line voltage", source=c.catalogue.name,
                           field="control.phase_monitor", candidates=candidates)  # fmt: skip
    settings, leaves = _settings(c, plate, designation, m)
    reason, marks = override_marks(c.document.override(role))
    selected = Selected(
        type=m.type if m else None, wires=wires, supply_va=m.supply_va if m else None, lost_leaves_pct=leaves
    )
    return [
        Device(
            designation, role, "phase_monitor", "Phase monitor", Required(voltage_v=line_v, wires=wires), selected, settings, (chosen,),
            chosen, reason, marks, branch=True,
        )
    ]  # fmt: skip


def _settings(c: Context, plate: Plate, designation: str, m: PhaseMonitor | None) -> tuple[Settings, float | None]:
    """Settings, findings on typed ones, and the asymmetry that a lost line leaves at the lightest load."""
    motor = motor_of(c.aside(), plate)
    asymmetry = thresholds(motor, c.document) if isinstance(motor, MotorModel) else []
    settings: dict[str, Any] = {}
    for s in monitor_settings(c.document, asymmetry, None):
        name = s.field.partition(".")[2]
        if name == "neutral" and c.document.control.phase_monitor != "four_wire":
            if s.objection:
                c.find(
                    "attention",
                    "monitor_setting",
                    f"{s.name[0].upper()}{s.name[1:]}: {s.objection}.",
                    s.field,
                    device=designation,
                )
            continue  # three wires: there is no such setting
        if s.value is not None:
            settings[name] = s.value
        typed = getattr(c.document.monitor, name)
        if s.objection:
            c.find("attention", "monitor_setting", f"{s.name[0].upper()}{s.name[1:]}: {s.objection}.", s.field, device=designation)  # fmt: skip
        if not s.unit or s.value is None:
            continue
        c.working.add(s.field, f"{s.name[0].upper()}{s.name[1:]}", "", float(s.value), s.unit, field=s.field, typical=typed is None,
                      rule="as typed" if typed is not None else s.why, source="typed" if typed is not None else "usual practice")  # fmt: skip
        low, high = (getattr(m, f"{RANGES[name]}_{end}_{'s' if s.unit == 's' else 'pct'}", None) for end in ("min", "max")) if name in RANGES else (None, None)  # fmt: skip
        if (low is not None and s.value < low - 1e-9) or (high is not None and s.value > high + 1e-9):
            c.find("attention", "monitor_range", f"{m.type if m else ''} can be set from {low or 0:g} to {high or 0:g} {s.unit} for {s.name}; "
                   f"{s.value:g} {s.unit} is not there.", s.field, device=designation)  # fmt: skip
    own = next((a for a in asymmetry if a.measure == c.document.monitor.asymmetry_measure), None)
    return Settings(**settings), own.least_pct if own else None
