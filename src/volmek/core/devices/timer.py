"""The star-delta timer: star time by the rule of thumb until a run-up is computed, and the pause."""

from volmek.core.catalogue.device_types import Timer
from volmek.core.context import Context
from volmek.core.devices.device import Check, Device, Objection, Required, Selected, override_marks, pick_spare
from volmek.core.devices.settings import Settings
from volmek.core.installation.designations import STAR_DELTA_TIMER
from volmek.core.installation.timers import LONGEST_CONTACTOR_PAUSE_S, TimerKind, pause_s, star_delta_timer_kind
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure
from volmek.core.start.changeover import rule_of_thumb_star_s
from volmek.core.start.start import Start

LEAST_STAR_S = 3.0
SHORT_DWELL_S, LONG_DWELL_S = 0.04, 0.10


ROLE = "star_delta_timer"
WORDS: dict[TimerKind, str] = {"star_delta": "star-delta timer", "on_delay": "on-delay timer with change-over contact"}
PAUSES: dict[TimerKind, str] = {
    "star_delta": "40 to 100 ms: longer than opening and arcing, short enough to keep the speed", "on_delay": "nothing to set: contactor times alone, 10 to 30 ms",
}  # fmt: skip


def _supplied(c: Context) -> Check[Timer]:
    """The timer can be fed from the control supply."""
    volts, kind = c.document.control.voltage_v, c.document.control.kind

    def check(t: Timer) -> Objection | None:
        if volts is None or any(x.kind == kind and x.covers(volts) for x in t.coils):
            return None
        return Objection("timer_supply", f"{t.type} is not made for {volts:g} V {kind.upper()}", "control.voltage_v")

    return check


def _loss(lost: Figure | None) -> str:
    """Speed lost in the pause, in words, where a run-up was computed."""
    return f" ({lost.text} %)" if lost else ""


def star_delta_timer(c: Context, plate: Plate, start: Start) -> Device:
    """Star time and dwell, as typed or proposed.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    start : with the time that it proposes

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("KT1", starter={"type": "star_delta", "star_time_s": 8}).settings.star_time_s
    8.0
    """
    w, s = c.working, c.document.starter
    proposed, power = next(iter(start.proposals), None), plate.shaft_power
    if s.star_time_s is not None:
        star = w.add("star_delta_timer.star_time_s", "Star time", "t*", s.star_time_s, "s", field="starter.star_time_s",
                     rule="as typed", source="typed", inputs=(proposed,))  # fmt: skip
    elif proposed is not None:
        star = w.add("star_delta_timer.star_time_s", "Star time", "t*", proposed.number, "s", inputs=(proposed,),
                     field="starter.star_time_s", rule="as the run-up proposes", source="run-up")  # fmt: skip
    else:
        value = max(LEAST_STAR_S, c.document.load.start_time_s or rule_of_thumb_star_s(plate.power_kw or 4.0))
        star = w.add("star_delta_timer.star_time_s", "Initial star time", "t*", value, "s", inputs=(power,), typical=True,
                     field="starter.star_time_s", rule="the starting time typed, else 4 + 2·√(P in kW), at least 3 s",
                     source="rule of thumb", note="Set it so that the motor has reached 80 % of its speed.")  # fmt: skip
    kind = star_delta_timer_kind(c.document)
    wanted = pause_s(c.document, chosen_pause_s(c))
    dwell = w.add("star_delta_timer.dwell_s", "Pause with all contactors open", "tp", wanted, "s", field="starter.dwell_s",
                  rule=PAUSES[kind], source="usual values; default")  # fmt: skip
    _judge_pause(c, kind, dwell, start.speed_loss)

    def reaches(t: Timer) -> Objection | None:
        if t.kind != kind:
            return Objection("timer_range", f"{t.type} is no {WORDS[kind]}", "control.star_delta_relay")
        if t.range_min_s <= star.number <= t.range_max_s:
            return None
        return Objection("timer_range", f"{t.type} goes from {t.range_min_s:g} to {t.range_max_s:g} s; {star.text} s in star is needed",
                         "starter.star_time_s")  # fmt: skip

    def pauses(t: Timer) -> Objection | None:
        if t.dwell_s is None or s.dwell_s is None or abs(t.dwell_s - s.dwell_s) < 1e-9:
            return None
        return Objection("timer_dwell", f"{t.type} has a pause of {1000 * t.dwell_s:g} ms built in; {1000 * s.dwell_s:g} ms is typed and has no effect",
                         "starter.dwell_s")  # fmt: skip

    t, candidates = pick_spare(
        c,
        ROLE,
        STAR_DELTA_TIMER,
        c.catalogue.timers,
        [reaches, pauses, _supplied(c)],
        what=WORDS[kind],
        field="starter.star_time_s",
    )
    range_ = c.working.add(
        f"{ROLE}.range", "Range of the timer", "", f"{t.range_min_s:g} to {t.range_max_s:g} s" if t else "none in the catalogue",
        inputs=(star,), rule=f"{WORDS[kind]} whose range holds the star time, for the control voltage",
        source=c.catalogue.source_of(t.type) if t else c.catalogue.name, candidates=candidates,
    )  # fmt: skip
    reason, marks = override_marks(c.document.override(ROLE))
    # Only a star-delta relay without a pause of its own has a dial for it.
    dial = kind == "star_delta" and (t is None or t.dwell_s is None)
    settings = Settings(star_time_s=star.number, dwell_s=dwell.number if dial else None)
    return Device(
        STAR_DELTA_TIMER, "star_delta_timer", "timer", WORDS[kind][0].upper() + WORDS[kind][1:], Required(star_time_s=star.number, dwell_s=dwell.number),
        Selected(t.type if t else None, kind, supply_va=t.supply_va if t else None, dwell_s=dwell.number), settings,
        (star, dwell, range_), range_, reason, marks,
    )  # fmt: skip


def chosen_pause_s(c: Context) -> float | None:
    """Pause that is built into the relay which the user chose; None where he chose none or it has a dial.

    Parameters
    ----------
    c : inputs and log of the sizing

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> chosen_pause_s(example_plate()[0]) is None
    True
    """
    override = c.document.override(ROLE)
    row = c.catalogue.by_type.get(override.device_type) if override and override.device_type else None
    return row[1].dwell_s if row and isinstance(row[1], Timer) else None


def _judge_pause(c: Context, kind: TimerKind, dwell: Figure, lost: Figure | None) -> None:
    typed = c.document.starter.dwell_s
    if kind == "on_delay":
        if typed is not None and typed > LONGEST_CONTACTOR_PAUSE_S + 1e-9 and c.document.starter.type == "star_delta":
            c.find("stop", "pause_without_dial", f"An on-delay relay has no pause to set: the contactors alone make 10 to 30 ms, not {1000 * typed:g} ms.",
                   "starter.dwell_s", device=STAR_DELTA_TIMER)  # fmt: skip
        return
    if dwell.number < SHORT_DWELL_S - 1e-9:
        c.find("attention", "dwell_short", f"A pause of {1000 * dwell.number:g} ms is shorter than a contactor takes to open and put out its arc: "
               "star and delta may short the supply.", "starter.dwell_s", device=STAR_DELTA_TIMER)  # fmt: skip
    elif dwell.number > LONG_DWELL_S + 1e-9:
        c.find("attention", "dwell_long", f"In a pause of {1000 * dwell.number:g} ms the motor loses speed{_loss(lost)} and its field turns back: the change-over "
               "current grows.", "starter.dwell_s", device=STAR_DELTA_TIMER)  # fmt: skip
