"""The circuit of a starter as it was designed: its times, its relay, its motor."""

from dataclasses import dataclass

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.dynamics import Dynamics, of_drive, usual
from volmek.core.circuit.kernel.simulate import MonitorSet, Simulator
from volmek.core.circuit.model.fitted import Fitted
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.schemes import circuit_of
from volmek.core.context import Context
from volmek.core.devices.dial import dial_line_current_a
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument
from volmek.core.methods.build import Built
from volmek.core.methods.rotor_resistance import ring_stages
from volmek.core.physics.thermal import ThermalEdge, trip_class_edges
from volmek.core.sizing import built_of

ASSUMED_START_S = 2.0


@dataclass(frozen=True)
class Live:
    """A circuit ready to be operated, and the sized starter that it belongs to.

    Attributes
    ----------
    circuit : as designed
    simulator : of it, or of the damaged one
    built : None while the plate does not suffice for a design
    catalogue : from which it was sized
    """

    circuit: Circuit
    simulator: Simulator
    built: Built | None
    catalogue: Catalogue


def live(document: StarterDocument, catalogue: Catalogue, faults: list[str] | None = None) -> Live:
    """The circuit of a document with the times and the motor of its design; usual ones where there is no design yet.

    Parameters
    ----------
    faults : put into the circuit that is operated

    Raises
    ------
    ProblemError : options that contradict each other, or a fault that the circuit cannot have.
    """
    try:
        c, built, _ = built_of(document, catalogue)
    except ProblemError:
        c, built = None, None
    circuit = circuit_of(document, fitted_of(document, built))
    damaged = damage(circuit, faults or [])
    simulator = Simulator(
        damaged.circuit, dynamics_of(document, c, built), damaged.engine(), monitor_set=monitor_of(document, built),
        current_limit=document.starter.current_limit_ratio or 3.5,
    )  # fmt: skip
    return Live(circuit, simulator, built, catalogue)


def fitted_of(document: StarterDocument, built: Built | None) -> Fitted:
    """What the sized devices decide of the circuit; without a design what the document says of them."""
    times = times_of(document, built)
    if built is None:
        return Fitted(document.protection.device, times_s=times)
    kind = built.front
    relay = any(d.kind == "overload_relay" for d in built.devices)
    return Fitted(kind, relay=relay or kind != "motor_breaker", times_s=times)


def monitor_of(document: StarterDocument, built: Built | None) -> MonitorSet:
    """Settings of the phase monitor: those of the sized device, so that simulation, setting sheet and record hold the same."""
    device = next((d for d in built.devices if d.kind == "phase_monitor"), None) if built else None
    usual, typed = MonitorSet(), document.monitor
    settings = device.settings if device else {}

    def number(name: str, default: float | None) -> float | None:
        value = settings.get(name, getattr(typed, name))
        return float(value) if isinstance(value, float | int) and not isinstance(value, bool) else default

    def flag(name: str, default: bool) -> bool:
        value = settings.get(name, getattr(typed, name))
        return value if isinstance(value, bool) else default

    return MonitorSet(
        undervoltage_pct=number("undervoltage_pct", usual.undervoltage_pct) or usual.undervoltage_pct,
        overvoltage_pct=number("overvoltage_pct", usual.overvoltage_pct) or usual.overvoltage_pct,
        asymmetry_pct=number("asymmetry_pct", None),
        sequence=flag("sequence", usual.sequence),
        neutral=flag("neutral", usual.neutral),
        loss_delay_s=_or(number("loss_delay_s", None), usual.loss_delay_s),
        voltage_delay_s=_or(number("voltage_delay_s", None), usual.voltage_delay_s),
        on_delay_s=_or(number("on_delay_s", None), usual.on_delay_s),
        lost_leaves_pct=device.selected.get("lost_leaves_pct") if device else None,  # type: ignore[arg-type]
    )


def _or(value: float | None, default: float) -> float:
    return default if value is None else value


def times_of(document: StarterDocument, built: Built | None) -> dict[str, float]:
    """Settings of the time relays by designation [s]."""
    s, start = document.starter, built.start if built else None
    times: dict[str, float] = {}
    if start and start.changes:
        times |= {f"KT{i}": change.time_s for i, change in enumerate(start.changes, start=1)}
    elif s.type.startswith("star_delta") and built:
        star = next((d for d in built.devices if d.role == "star_delta_timer"), None)
        value = star.settings.get("star_time_s") if star else None
        if isinstance(value, float | int):
            times["KT1"] = float(value)
    for i, typed in enumerate(
        (s.star_time_s or s.first_stage_time_s, s.second_stage_time_s, s.third_stage_time_s), start=1
    ):
        if typed is not None:
            times[f"KT{i}"] = typed
    timer = next((d for d in built.devices if d.role == "star_delta_timer"), None) if built else None
    pause = timer.selected.get("dwell_s") if timer else s.dwell_s
    if isinstance(pause, float | int):
        times["pause"] = float(pause)
    if start and start.result and not start.result.stalls:
        times["G1"] = start.result.run_up_time_s
    if document.control.rest_time_s:
        times["KT2"] = document.control.rest_time_s
    if document.control.standby:
        times |= {"KT2": 2.0, "KT3": 10.0, "KT4": 5.0}
    return times


def dynamics_of(document: StarterDocument, c: Context | None, built: Built | None) -> Dynamics:
    """How motor, load and relay behave."""
    edge, dial = _relay(c, built)
    m = document.motor
    rings = (
        tuple(s.rotor_ratio or 1.0 for s in ring_stages(document))
        if document.starter.type == "rotor_resistance"
        else ()
    )
    ratio = m.low_speed_rpm / m.rated_speed_rpm if m.low_speed_rpm and m.rated_speed_rpm else 0.5
    if built and built.start.drive is not None:
        return of_drive(built.start.drive, edge, dial, ratio, rings)
    seconds = built.start.figure.number if built else ASSUMED_START_S
    return usual(seconds, edge, dial, ratio, rings)


def _relay(c: Context | None, built: Built | None) -> tuple[ThermalEdge | None, float]:
    """The mean edge of the overload relay, and its dial over rated current."""
    device = next((d for d in built.devices if d.settings.get("trip_class")), None) if built else None
    if device is None or c is None:
        return None, 1.0
    share = dial_line_current_a(device.role, c.working.figures) / c.working.figures["design_current_a"].number
    return trip_class_edges(str(device.settings["trip_class"])).mean, share
