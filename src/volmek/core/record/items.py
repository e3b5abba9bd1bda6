"""Measurements and trials before hand-over, each with its computed limit and the reason for it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from volmek.core.circuit.kernel.operator import lamp_table
from volmek.core.circuit.model.netlist import LIVE, Circuit
from volmek.core.circuit.simulated import SimulatedStarter
from volmek.core.design import Design
from volmek.core.devices.settings import settings_of
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument
from volmek.core.physics.conductors import conductor_resistance_ohm, protective_section_mm2
from volmek.core.plate.plate import no_load_current_ratio
from volmek.core.results.figures import as_read

Severity = Literal["fine", "attention", "stop"]
GROUPS = {
    "dead": "Dead, before any voltage", "supply": "Supply", "settings": "Settings, found and left", "trials": "Trials", "running": "Running",
}  # fmt: skip
#: What joints and leads add [Ω], and margin on a computed resistance.
JOINTS_OHM, MARGIN = 0.1, 1.2
PE_SOURCE = "IEC 60364-6, 6.4.3.2; R = ρ·L/S"


@dataclass(frozen=True, slots=True)
class Item:
    """An item to be measured, set or tried.

    Attributes
    ----------
    id : its name in the record
    group, title, how : where it stands, what it is, how it is done
    unit : of a number
    kind : a number, or one of ``choices``
    good : choices that pass
    expected : what the design says, in words
    attention_below, stop_below, attention_above, stop_above : limits of a number
    possible : what the thing can be at all, whatever is wrong with it
    usual : where it lies on sound starters; far off, the unit was mixed up
    reason, source : why the limit is where it is
    meter : name of the quantity at a panel meter; empty where no meter gives it
    caution : a sentence that stands where the step can hurt
    """

    id: str
    group: str
    title: str
    how: str
    unit: str = ""
    kind: Literal["number", "choice"] = "number"
    choices: tuple[str, ...] = ()
    good: tuple[str, ...] = ()
    expected: str = ""
    attention_below: float | None = None
    stop_below: float | None = None
    attention_above: float | None = None
    stop_above: float | None = None
    possible: tuple[float, ...] = (0.0, 1e6)
    usual: tuple[float, ...] | None = None
    reason: str = ""
    source: str = ""
    meter: str = ""
    caution: str = ""


@dataclass(frozen=True, slots=True)
class Verdict:
    """Verdict on a reading."""

    severity: Severity
    words: str


def judge(item: Item, value: float | str) -> Verdict:
    """A reading against its limits.

    Parameters
    ----------
    value : number in the item's unit, or one of its choices

    Examples
    --------
    >>> i = Item("insulation.motor", "dead", "", "", "MΩ", stop_below=1, attention_below=5, reason="below it moisture is likely")
    >>> judge(i, 0.8).severity, judge(i, 2).words, judge(i, 200).severity
    ('stop', '2 MΩ is below 5 MΩ: below it moisture is likely', 'fine')
    """
    if isinstance(value, str):
        if value in item.good or not item.good:
            return Verdict("fine", "as it must be")
        return Verdict("stop", f"must be: {' or '.join(item.good)}" + (f"; {item.reason}" if item.reason else ""))
    unit = f" {item.unit}" if item.unit else ""
    because = f": {item.reason}" if item.reason else ""
    levels: tuple[tuple[Severity, float | None, float | None], ...] = (
        ("stop", item.stop_below, item.stop_above), ("attention", item.attention_below, item.attention_above),
    )  # fmt: skip
    for severity, low, high in levels:
        if low is not None and value < low:
            return Verdict(severity, f"{as_read(value)}{unit} is below {as_read(low)}{unit}{because}")
        if high is not None and value > high:
            return Verdict(severity, f"{as_read(value)}{unit} is above {as_read(high)}{unit}{because}")
    known = (
        [x for x in (item.attention_below, item.stop_below) if x is not None],
        [x for x in (item.attention_above, item.stop_above) if x is not None],
    )
    if not known[0] and not known[1]:
        return Verdict("attention", item.reason) if item.reason else Verdict("fine", "recorded")
    low_limit, high_limit = (as_read(f(known[k])) if known[k] else "" for k, f in ((0, max), (1, min)))
    if low_limit and high_limit:
        return Verdict("fine", f"within {low_limit} to {high_limit}{unit}")
    return Verdict("fine", f"within {high_limit}{unit}" if high_limit else f"not below {low_limit}{unit}")


def refusal(item: Item, value: float | str, *, confirmed: bool = False) -> str:
    """Reason for refusing a reading; empty when it is accepted.

    Parameters
    ----------
    confirmed : the reading was looked at again and is meant

    Examples
    --------
    >>> i = Item("insulation.motor", "dead", "", "", "MΩ", possible=(0, 1e6), usual=(5, 20000))
    >>> refusal(i, 0.005)
    '0.005 MΩ is far from what is usual (5 to 20\\u202f000 MΩ); 5 MΩ would be: is the unit right? Enter it in MΩ, or confirm it'
    >>> refusal(i, 0.005, confirmed=True), refusal(i, -1)
    ('', '-1 MΩ cannot be: from 0 to 1\\u202f000\\u202f000 MΩ')
    """
    if isinstance(value, str):
        return "" if value in item.choices else f"'{value}' is not one of {', '.join(item.choices)}"
    unit = f" {item.unit}" if item.unit else ""
    low, high = item.possible
    if not low <= value <= high:
        return f"{as_read(value)}{unit} cannot be: from {as_read(low)} to {as_read(high)}{unit}"
    if item.usual and not confirmed and value != 0:
        a, b = item.usual
        shifted = next((value * f for f in (1000, 0.001) if a <= value * f <= b), None)
        if not a <= value <= b and shifted is not None:
            return (
                f"{as_read(value)}{unit} is far from what is usual ({as_read(a)} to {as_read(b)}{unit}); {as_read(shifted)}{unit} would be: "
                f"is the unit right? Enter it in {item.unit}, or confirm it"
            )
    return ""


def commissioning(document: StarterDocument, design: Design | None, it: SimulatedStarter) -> list[Item]:
    """Items to be measured, set and tried on a starter, in working order.

    Parameters
    ----------
    document : of the starter
    design : for the limits; without one only what needs none is listed
    it : its circuit

    References
    ----------
    IEC 60364-6 (initial verification); IEC 60204-1, clause 18; IEC 60947-4-1, 8.2 (limits of operation of coils).
    """
    three = document.motor.phases != 1
    found = [*_dead(document, design), *_supply(document, design, it.circuit, three)]
    if design is not None:
        found += _settings(design)
    found += _trials(document, it)
    if design is not None:
        found += _running(document, design, it, three)
    return found


def _dead(document: StarterDocument, design: Design | None) -> Iterator[Item]:
    caution = (
        "Isolated, locked off, proved dead. Electronics and capacitors disconnected; discharge the windings afterwards."
    )
    yield Item(
        "insulation.motor", "dead", "Insulation of motor and cable to earth", "Windings joined, against the protective conductor, 500 V d.c. for one minute",
        "MΩ", stop_below=1, attention_below=5, possible=(0, 1e6), usual=(0.2, 200000), reason="damp, dirt or a damaged winding",
        source="IEC 60364-6, table 6.1; IEEE 43, 12.3", expected="at least 1 MΩ, usually more than 5", caution=caution,
    )  # fmt: skip
    yield Item(
        "insulation.control", "dead", "Insulation of the control circuit to earth", "Link to earth opened, all control wires joined, 500 V d.c.",
        "MΩ", stop_below=1, attention_below=2, possible=(0, 1e6), usual=(0.2, 200000), reason="a damaged or damp control cable",
        source="IEC 60364-6, table 6.1; IEC 60204-1, 18.3", expected="at least 1 MΩ", caution=caution,
    )  # fmt: skip
    s = document.supply
    cable = next((d.selected for d in design.devices if d.kind == "motor_conductor"), None) if design else None
    section, parallel = cable.section_mm2 if cable else None, (cable.parallel if cable else None) or 1
    section = section or s.cable_section_mm2
    length, how = s.cable_length_m, "From the bar in the panel to the motor's frame, with 0.2 A at least"
    if length and section:
        protective = protective_section_mm2(section)
        expected = conductor_resistance_ohm(length, protective) / parallel
        limit = MARGIN * expected + JOINTS_OHM
        yield Item(
            "earth.motor", "dead", "Protective conductor to the motor", how, "Ω", attention_above=limit, stop_above=5 * limit, possible=(0, 1000),
            usual=(0.005, 20), expected=f"{as_read(expected)} Ω for {length:g} m of {f'{parallel} × ' if parallel > 1 else ''}{protective:g} mm²",
            reason="a loose or missing protective conductor", source=PE_SOURCE,
        )  # fmt: skip
    else:
        yield Item(
            "earth.motor", "dead", "Protective conductor to the motor", how, "Ω", stop_above=2, possible=(0, 1000), usual=(0.005, 20),
            expected="no closer limit: the length of the motor cable is not known", reason="no cable of a starter has so much",
            source=PE_SOURCE,
        )  # fmt: skip


def _supply(document: StarterDocument, design: Design | None, c: Circuit, three: bool) -> Iterator[Item]:
    main = c.named("main_breaker")
    volts = design.supply.line_voltage_v if design else document.supply.line_voltage_v
    caution = "Live work: only with the tester, its probes and the clothing meant for it."
    if volts:
        pairs = ("L1-L2", "L2-L3", "L3-L1") if three else ("L1-N",)
        for pair in pairs:
            yield Item(
                f"voltage.{pair}", "supply", f"Voltage {pair}", f"At the load side of {main}, nothing running", "V", attention_below=0.95 * volts,
                stop_below=0.9 * volts, attention_above=1.05 * volts, stop_above=1.1 * volts, possible=(0, 15000), usual=(0.2 * volts, 3 * volts),
                expected=f"{as_read(volts)} V", reason="the motor is made for its rated voltage ± 5 %, for a short time ± 10 %",
                source="IEC 60034-1, 7.3; IEC 60038", meter=f"voltage_{pair.replace('-', '_').lower()}", caution=caution,
            )  # fmt: skip
    hertz = design.supply.frequency_hz if design else document.supply.frequency_hz
    if hertz:
        yield Item(
            "frequency", "supply", "Frequency", f"At the load side of {main}", "Hz", attention_below=0.98 * hertz, attention_above=1.02 * hertz,
            stop_below=0.95 * hertz, stop_above=1.05 * hertz, possible=(0, 500), expected=f"{hertz:g} Hz", reason="outside zone A of the motor",
            source="IEC 60034-1, 7.3", meter="frequency",
        )  # fmt: skip
    control = document.control.voltage_v
    if control:
        yield Item(
            "voltage.control", "supply", "Control voltage", f"Between {c.sources.get(LIVE, 'the live rail')} and the return, with {' or '.join(c.feeders[:1]) or 'the contactor'} in", "V", attention_below=0.95 * control,
            stop_below=0.85 * control, attention_above=1.05 * control, stop_above=1.1 * control, possible=(0, 1000), usual=(0.2 * control, 3 * control),
            expected=f"{as_read(control)} V", reason="a coil pulls in from 85 % and stands 110 %", source="IEC 60947-4-1, 8.2.1.2", caution=caution,
        )  # fmt: skip
    if three:
        yield Item(
            "rotation.supply", "supply", "Rotation of the supply", f"Rotary field tester at the load side of {main}", kind="choice", choices=("clockwise", "anticlockwise"),
            good=("clockwise",), expected="clockwise", reason="the motor and the phase monitor depend on it", source="IEC 60204-1, 18.6", caution=caution,
        )  # fmt: skip


def _settings(design: Design) -> Iterator[Item]:
    for d in design.devices:
        for s in settings_of(d.settings):
            name = f"{d.designation} {s.label}"
            if isinstance(s.value, float | int) and not isinstance(s.value, bool):
                value = float(s.value)
                highest = value * 1.05 if s.key == "dial_a" else value * 1.25
                yield Item(
                    f"setting.{d.designation}.{s.key}.found", "settings", f"{name}, as found", "Before anything is turned", s.unit,
                    possible=(0, max(1e5, 10 * value)), expected=f"{s.text} {s.unit}".strip(),
                )  # fmt: skip
                yield Item(
                    f"setting.{d.designation}.{s.key}.left", "settings", f"{name}, as left", "As it is handed over", s.unit, attention_below=0.97 * value,
                    attention_above=1.03 * value, stop_above=highest, possible=(0, max(1e5, 10 * value)), expected=f"{s.text} {s.unit}".strip(),
                    reason="the design asks for " + f"{s.text} {s.unit}".strip() + (", more would not protect the motor" if s.key == "dial_a" else ""),
                    source="the design's own figure, with its working",
                )  # fmt: skip
            else:
                choices = tuple(
                    dict.fromkeys((s.text, "set otherwise", *(("on", "off") if isinstance(s.value, bool) else ())))
                )
                yield Item(
                    f"setting.{d.designation}.{s.key}.left", "settings", f"{name}, as left", "As it is handed over", kind="choice", choices=choices,
                    good=(s.text,), expected=s.text, source="the design's own figure, with its working",
                )  # fmt: skip


def _trials(document: StarterDocument, it: SimulatedStarter) -> Iterator[Item]:
    c = it.circuit
    for name in c.overloads:
        yield Item(
            f"trip.{name}", "trials", f"{name} by its test button", "Motor running, press test; then reset by hand", kind="choice",
            choices=("everything drops out, stays out after the reset", "starts again at the reset", "does not drop out"),
            good=("everything drops out, stays out after the reset",), expected="everything drops out", reason="a trip that does not act does not protect",
            source="IEC 60947-4-1; IEC 60204-1, 7.3",
        )  # fmt: skip
    if c.monitor:
        for line in ("L1", "L2", "L3"):
            feeds = line in c.source.feeds
            note = (
                f"{line} also feeds the control circuit: without it everything drops out whether or not the monitor works. Watch the monitor's own "
                "indication, or open the line at the monitor's own terminal."
                if feeds else "Opened ahead of the monitor, the motor running light."
            )  # fmt: skip
            yield Item(
                f"phase.{line}", "trials", f"Phase failure, {line}", note, kind="choice",
                choices=("the monitor shows it and drops everything out", "everything drops out, the monitor shows nothing", "nothing happens"),
                good=("the monitor shows it and drops everything out",), expected="the monitor shows it and drops everything out",
                reason="this line would not be monitored", source="IEC 60255; the circuit's own simulation",
                caution="Take a fuse out or open a breaker pole only as the maker allows; never pull a live terminal.",
            )  # fmt: skip
        m = it.simulator.monitor_set
        for word, limit, delay in (
            ("low", m.undervoltage_pct, m.voltage_delay_s),
            ("high", m.overvoltage_pct, m.voltage_delay_s),
        ):
            yield Item(
                f"phase.{word}_voltage", "trials", f"Phase monitor, {word} voltage",
                f"Turn its {'under' if word == 'low' else 'over'}voltage threshold past the voltage that is there, then back to {limit:g} %; it acts after {delay:g} s",
                kind="choice", choices=("drops everything out", "nothing happens"), good=("drops everything out",), expected="drops everything out",
                reason=f"{word} voltage would not be monitored", source="IEC 60255; the monitor's own settings",
            )  # fmt: skip
    for a, b in dict.fromkeys((*c.forbidden, *c.mechanical)):
        for held, other in ((a, b), (b, a)):
            yield Item(
                f"interlock.{held}.{other}", "trials", f"Interlock: {held} keeps {other} out",
                f"Dead and locked off: push {held} in by hand; the way to {other}:A1 must be open, and {other} must not go in",
                kind="choice", choices=("open, and held out", "open, but goes in by hand", "closed"),
                good=("open, and held out",) if (a, b) in c.mechanical or (b, a) in c.mechanical else ("open, and held out", "open, but goes in by hand"),
                expected="open, and held out", reason=f"{held} and {other} together short the supply" if (a, b) in c.forbidden else "the lever is missing",
                source="IEC 60947-4-1; the proof of the circuit", caution="Never push a contactor in by hand on a live panel.",
            )  # fmt: skip
    if c.loads:
        for state, lit in lamp_table(c).items():
            if lit:
                on, off = ([k for k, v in lit.items() if v == wanted] for wanted in (True, False))
                said = ", ".join(
                    filter(None, (f"{' '.join(on)} lit" if on else "", f"{' '.join(off)} dark" if off else ""))
                )
                yield Item(
                    f"lamps.{state}", "trials", f"Lamps: {state}", said, kind="choice", choices=("as listed", "otherwise"), good=("as listed",),
                    expected=said, reason="a lamp that shows the wrong state misleads", source="the lamp table of the circuit",
                )  # fmt: skip
        for name in c.of_kind("emergency_stop"):
            yield Item(
                f"emergency.{name}", "trials", f"Emergency stop {name}", "Motor running: press it, then pull it out again", kind="choice",
                choices=("everything drops out, nothing starts at its release", "starts again at its release", "does not drop everything out"),
                good=("everything drops out, nothing starts at its release",), expected="everything drops out", source="IEC 60204-1, 9.2.3.4.2; ISO 13850",
                reason="an emergency stop that does not stop, or starts",
            )  # fmt: skip
        yield Item(
            "restart", "trials", "Supply failure", f"Motor running: open and close the control breaker. {c.restart}", kind="choice",
            choices=("stays off", "restarts by itself"), good=("stays off",) if "no_self_start" not in c.declared else ("stays off", "restarts by itself"),
            expected=c.restart, reason="the circuit is declared to stay off", source="IEC 60204-1, 7.5",
        )  # fmt: skip


def _running(document: StarterDocument, design: Design, it: SimulatedStarter, three: bool) -> Iterator[Item]:
    lines = ("L1", "L2", "L3") if three else ("L1",)
    current, permitted = design.currents.design_current_a, design.currents.permitted_current_a
    yield Item(
        "rotation.motor", "running", "Direction of rotation", "A short start, seen from the drive end", kind="choice", choices=("as marked on the machine", "backwards"),
        good=("as marked on the machine",), expected="as marked on the machine", reason="pumps, fans and screws run backwards without tripping",
        source="IEC 60034-8", caution="Keep everybody clear of the machine.",
    )  # fmt: skip
    share, typical = _no_load(document, it)
    idle = share * current
    for line in lines:
        yield Item(
            f"no_load.{line}", "running", f"No-load current {line}", "Coupling off, at speed", "A", attention_below=(0.4 if typical else 0.6) * idle,
            attention_above=(1.7 if typical else 1.4) * idle, stop_above=permitted, possible=(0, 20000), usual=(0.05 * idle, 5 * idle),
            expected=f"about {as_read(idle)} A{' (typical)' if typical else ''}", reason="a rewound or damaged motor, or the wrong voltage or connection",
            source="equivalent circuit of the motor; IEC 60034-2-1", meter=f"current_{line.lower()}",
        )  # fmt: skip
    for line in lines:
        yield Item(
            f"load.{line}", "running", f"Load current {line}", "At working load, warm", "A", attention_above=permitted, stop_above=1.15 * permitted,
            possible=(0, 20000), usual=(0.05 * permitted, 5 * permitted), expected=f"up to {as_read(permitted)} A",
            reason="more than the derated full-load current", source="the design's permitted current; IEC 60034-1", meter=f"current_{line.lower()}",
        )  # fmt: skip
    starting = design.currents.starting_line_current_a
    if starting:
        yield Item(
            "start.current", "running", "Starting current", "Highest reading during the start, without the first half cycle", "A", attention_below=0.5 * starting,
            attention_above=1.2 * starting, stop_above=2 * starting, possible=(0, 100000), usual=(0.05 * starting, 5 * starting),
            expected=f"about {as_read(starting)} A", reason="another method, a wrong connection or a blocked load", source="the design's starting current",
            meter="start_current",
        )  # fmt: skip
    start = design.start
    if start.run_up_time_s and not start.stalls:
        yield Item(
            "start.time", "running", "Starting time", "From the first contact to full speed", "s", attention_below=0.5 * start.run_up_time_s,
            attention_above=1.3 * start.run_up_time_s, stop_above=2 * start.run_up_time_s, possible=(0, 600), expected=f"about {as_read(start.run_up_time_s)} s",
            reason="load or supply are not as calculated; the relay may trip", source="run-up of the start stage", meter="start_time",
        )  # fmt: skip
    if start.star_time_s:
        yield Item(
            "start.star_time", "running", "Star time", "From the first contact until the star contactor drops out", "s", attention_below=0.9 * start.star_time_s,
            attention_above=1.1 * start.star_time_s, possible=(0, 600), expected=f"{as_read(start.star_time_s)} s", reason="the timer does not keep its set time",
            source="the design's star time", meter="star_time",
        )  # fmt: skip
        dwell = next((d.settings.dwell_s for d in design.devices if d.role == "star_delta_timer"), None)
        if isinstance(dwell, float | int):
            ms = 1000 * float(dwell)
            yield Item(
                "start.dwell", "running", "Pause between star and delta", f"Between the opening of {it.circuit.named('star')} and the closing of {it.circuit.named('delta')}", "ms", stop_below=10,
                attention_below=0.6 * ms, attention_above=2 * ms, possible=(0, 5000), expected=f"{as_read(ms)} ms",
                reason="too short and the arc shorts the supply, too long and the motor slows down", source="the design's pause", meter="dwell_ms",
            )  # fmt: skip


def _no_load(document: StarterDocument, it: SimulatedStarter) -> tuple[float, bool]:
    """No-load current over rated current, and whether it is only typical."""
    drive = it.built.start.drive if it.built else None
    if drive is not None:
        return drive.motor.no_load_ratio, False
    m = document.motor
    try:
        if m.power_factor:
            return no_load_current_ratio(m.power_factor, m.breakdown_torque_ratio or 2.5), False
    except ProblemError:
        pass
    return 0.4, True


#: For charts: items that are measured again over the years.
def repeated(items: list[Item]) -> list[Item]:
    """Numbers worth following over the years: not the settings."""
    return [i for i in items if i.kind == "number" and i.group != "settings"]
