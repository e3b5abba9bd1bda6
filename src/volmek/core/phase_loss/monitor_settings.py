"""Settings of a phase monitor: proposed from motor and supply, or typed and judged."""

from dataclasses import dataclass
from typing import Literal

from volmek.core.document.model import Monitor, StarterDocument
from volmek.core.phase_loss.open_phase import AsymmetryChoice, asymmetry_choices
from volmek.core.physics.motor_model import MotorModel
from volmek.core.plate.plate import voltage_unbalance_pct
from volmek.core.results.figures import as_read

UNDERVOLTAGE_PCT, OVERVOLTAGE_PCT = 90.0, 110.0
LEAST_UNDERVOLTAGE_PCT, SUPPLY_TOLERANCE_PCT = 85.0, 95.0
LOSS_DELAY_S, VOLTAGE_DELAY_S, ON_DELAY_S = 0.2, 2.0, 1.0
#: A winding on two phases is beyond its limit within seconds.
MOST_LOSS_DELAY_S = 2.0
#: Load at which a lost phase must be seen, and the least that is looked at.
LIGHT_LOAD, LEAST_LOAD = 0.3, 0.05
#: Of the spread of a healthy supply by each definition, in per cent.
HEALTHY_PCT = {"nema": 2.0, "sequence": 2.0, "spread": 3.2}


@dataclass(frozen=True, slots=True)
class MonitorSetting:
    """One setting of a phase monitor.

    Attributes
    ----------
    name : in a fitter's words
    field : of the document that overrides it
    unit : ``%``, ``s``; empty for what is on or off
    value, proposed : in use, and proposed; True and False for what is on or off, None where no value serves
    why : the reason
    verdict : ``fine`` or ``attention``
    objection : what is wrong with a typed value
    """

    name: str
    field: str
    unit: str
    value: float | bool | None
    proposed: float | bool | None
    why: str
    verdict: Literal["fine", "attention"] = "fine"
    objection: str = ""


def thresholds(motor: MotorModel, document: StarterDocument) -> list[AsymmetryChoice]:
    """Thresholds of asymmetry for this motor at a light load, above what the supply shows by itself."""
    usual = (document.load.torque_pct or 100.0) / 100
    measured = document.supply.measured_voltages_v
    own = voltage_unbalance_pct((measured[0], measured[1], measured[2])) if measured else 0.0
    return asymmetry_choices(motor, max(min(usual, LIGHT_LOAD), LEAST_LOAD), max(own, HEALTHY_PCT["nema"]))


def monitor_settings(
    document: StarterDocument,
    asymmetry: list[AsymmetryChoice],
    blind_pct: float | None,
    dip_pct: float | None = None,
    start_s: float | None = None,
) -> list[MonitorSetting]:
    """Every setting of the monitor, proposed or typed; a typed one that misses its purpose says so.

    Parameters
    ----------
    asymmetry : thresholds that separate a lost phase from the healthy supply, by definition; empty when not known
    blind_pct : lowest line voltage after a lost phase at the usual load [%]; None when not known
    dip_pct : how deep the start's own dip goes at the board [%]
    start_s : how long it lasts [s]

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> d = parse({"tag": "A", "monitor": {"undervoltage_pct": 80}})
    >>> s = {x.field: x for x in monitor_settings(d, [], 82.0)}
    >>> s["monitor.undervoltage_pct"].value, s["monitor.undervoltage_pct"].verdict, s["monitor.overvoltage_pct"].value
    (80.0, 'attention', 110.0)

    References
    ----------
    Usual practice: sequence on, undervoltage 90 %, overvoltage 110 %, 0.2 s for loss and asymmetry, 2 s for voltage, at
    least 1 s before a restart.
    """
    m = document.monitor
    made = [_asymmetry(m, asymmetry), _undervoltage(m, blind_pct)]
    over = m.overvoltage_pct
    made.append(
        _made("overvoltage", "overvoltage_pct", "%", over, OVERVOLTAGE_PCT, "the motor's own limit",
              "above 110 % the iron saturates and the motor runs hot" if over is not None and over > OVERVOLTAGE_PCT else "")
    )  # fmt: skip
    made.append(
        _made("phase sequence", "sequence", "", m.sequence, True, "two lines swapped turn the motor the wrong way; no relay notices",
              "nothing else notices a motor that turns the wrong way" if m.sequence is False else "")
    )  # fmt: skip
    made.append(_neutral(document))
    loss = m.loss_delay_s
    made.append(
        _made("delay for loss and asymmetry", "loss_delay_s", "s", loss, LOSS_DELAY_S, "quick, for the winding burns in seconds",
              f"in {loss:g} s on two phases the worst winding may be beyond its limit" if loss is not None and loss > MOST_LOSS_DELAY_S else "")
    )  # fmt: skip
    made.append(_voltage_delay(m, dip_pct, start_s))
    on = m.on_delay_s
    made.append(
        _made("on-delay, restart", "on_delay_s", "s", on, ON_DELAY_S, "staggered over a board, so that not every motor starts at once",
              "below 1 s a supply that comes and goes starts the motor anew each time" if on is not None and on < ON_DELAY_S else "")
    )  # fmt: skip
    return made


def _made(
    name: str,
    field: str,
    unit: str,
    typed: float | bool | None,
    proposed: float | bool | None,
    why: str,
    objection: str,
) -> MonitorSetting:
    def number(given: float | bool | None) -> float | bool | None:
        return given if given is None or isinstance(given, bool) else float(given)

    value = proposed if typed is None else typed
    return MonitorSetting(
        name,
        f"monitor.{field}",
        unit,
        number(value),
        number(proposed),
        why,
        "attention" if objection else "fine",
        objection,
    )


def _asymmetry(m: Monitor, choices: list[AsymmetryChoice]) -> MonitorSetting:
    choice = next((a for a in choices if a.measure == m.asymmetry_measure), None)
    typed, objection = m.asymmetry_pct, ""
    healthy = HEALTHY_PCT[m.asymmetry_measure]
    proposed = choice.proposed_pct if choice else None
    if typed is not None and choice and typed >= choice.least_pct:
        objection = f"a lost phase at the lightest load leaves {as_read(choice.least_pct)} %: it is not detected"
    elif typed is not None and typed <= healthy:
        objection = f"a healthy supply shows up to {healthy:g} % by itself: nuisance tripping"
    why = (
        "between what the healthy supply shows and what a lost phase leaves at the lightest load"
        if proposed is not None
        else "no value separates the two at this load: sense the current instead"
        if choice
        else "needs the motor's plate"
    )
    return _made(
        "asymmetry", "asymmetry_pct", "%", typed, None if proposed is None else round(proposed, 1), why, objection
    )


def _undervoltage(m: Monitor, blind_pct: float | None) -> MonitorSetting:
    typed, objection = m.undervoltage_pct, ""
    if typed is not None and typed < LEAST_UNDERVOLTAGE_PCT:
        objection = "a motor at rated load does not withstand less than 85 % for long"
    elif typed is not None and typed > SUPPLY_TOLERANCE_PCT:
        objection = "a supply within its own tolerance trips it"
    alone = "" if blind_pct is None else f"; alone it detects a lost phase here only if set above {blind_pct:.0f} %"
    why = f"never below 85 % for a motor at rated load{alone}"
    return _made("undervoltage", "undervoltage_pct", "%", typed, UNDERVOLTAGE_PCT, why, objection)


def _neutral(document: StarterDocument) -> MonitorSetting:
    there, typed = document.supply.neutral is True, document.monitor.neutral
    why = (
        "single-phase loads on this board get the wrong voltage when it is lost"
        if there
        else "there is none, or nothing on it matters here"
    )
    objection = ""
    if typed and document.control.phase_monitor == "three_wire":
        objection = "a three-wire monitor has no terminal for the neutral"
    return _made("neutral", "neutral", "", typed, there, why, objection)


def _voltage_delay(m: Monitor, dip_pct: float | None, start_s: float | None) -> MonitorSetting:
    threshold = m.undervoltage_pct if m.undervoltage_pct is not None else UNDERVOLTAGE_PCT
    deep = dip_pct is not None and 100 - dip_pct < threshold
    proposed = max(VOLTAGE_DELAY_S, round(1.25 * start_s + 0.5)) if deep and start_s else VOLTAGE_DELAY_S
    typed, objection = m.voltage_delay_s, ""
    if typed is not None and deep and start_s and typed < start_s:
        objection = f"the start pulls the voltage below {threshold:g} % for up to {as_read(start_s)} s: it trips during the start"
    why = "longer than the dip of the start" + (f", which goes {dip_pct:.0f} % deep here" if deep else "")
    return _made("delay for voltage", "voltage_delay_s", "s", typed, proposed, why, objection)
