"""Decisions of the sized devices about the circuit and its simulation: kinds, times, monitor settings."""

from typing import TypeVar

from volmek.core.circuit.kernel.state import MonitorSet
from volmek.core.circuit.model.fitted import Fitted, overload_fitted
from volmek.core.devices.settings import Settings
from volmek.core.document.model import StarterDocument
from volmek.core.installation.designations import SOFT_STARTER, STAR_DELTA_TIMER
from volmek.core.methods.build import Built

T = TypeVar("T")


def fitted_of(document: StarterDocument, built: Built | None) -> Fitted:
    """Kinds and times of the sized devices for the circuit; without a design those of the document."""
    times = times_of(document, built)
    if built is None:
        return Fitted(document.protection.device, relay=overload_fitted(document), times_s=times)
    return Fitted(built.front, relay=any(d.kind == "overload_relay" for d in built.devices), times_s=times)


def monitor_of(document: StarterDocument, built: Built | None) -> MonitorSet:
    """Settings of the phase monitor: those of the sized device, so that simulation, setting sheet and record hold the same."""
    device = next((d for d in built.devices if d.kind == "phase_monitor"), None) if built else None
    s = device.settings if device else Settings()
    usual, typed = MonitorSet(), document.monitor
    return MonitorSet(
        _first(s.undervoltage_pct, typed.undervoltage_pct, usual.undervoltage_pct),
        _first(s.overvoltage_pct, typed.overvoltage_pct, usual.overvoltage_pct),
        typed.asymmetry_pct if s.asymmetry_pct is None else s.asymmetry_pct,
        _first(s.sequence, typed.sequence, usual.sequence),
        _first(s.neutral, typed.neutral, usual.neutral),
        _first(s.loss_delay_s, typed.loss_delay_s, usual.loss_delay_s),
        _first(s.voltage_delay_s, typed.voltage_delay_s, usual.voltage_delay_s),
        _first(s.on_delay_s, typed.on_delay_s, usual.on_delay_s),
        device.selected.lost_leaves_pct if device else None,
    )


def _first(told: T | None, typed: T | None, usual: T) -> T:
    """Setting of the device, else the typed one, else the usual one."""
    return next((x for x in (told, typed) if x is not None), usual)


def times_of(document: StarterDocument, built: Built | None) -> dict[str, float]:
    """Settings of the time relays by designation [s]."""
    s, start = document.starter, built.start if built else None
    times: dict[str, float] = {}
    if start and start.changes:
        times |= {f"KT{i}": change.time_s for i, change in enumerate(start.changes, start=1)}
    elif s.type.startswith("star_delta") and built:
        star = next((d for d in built.devices if d.role == "star_delta_timer"), None)
        if star and star.settings.star_time_s is not None:
            times[STAR_DELTA_TIMER] = star.settings.star_time_s
    for i, typed in enumerate(
        (s.star_time_s or s.first_stage_time_s, s.second_stage_time_s, s.third_stage_time_s), start=1
    ):
        if typed is not None:
            times[f"KT{i}"] = typed
    timer = next((d for d in built.devices if d.role == "star_delta_timer"), None) if built else None
    pause = timer.selected.dwell_s if timer else s.dwell_s
    if pause is not None:
        times["pause"] = pause
    if start and start.result and not start.result.stalls:
        times[SOFT_STARTER] = start.result.run_up_time_s
    if document.control.rest_time_s:
        times["KT2"] = document.control.rest_time_s
    if document.control.standby:
        times |= {"KT2": 2.0, "KT3": 10.0, "KT4": 5.0}
    return times
