"""The quick answer: one line from a plate, and what to set and fit."""

from dataclasses import dataclass, replace
from typing import Any

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.design import Design
from volmek.core.devices.device import Device
from volmek.core.devices.said import picked_of, settings_as_read
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import Practice, StarterDocument, parse
from volmek.core.document.plate_line import PlateLine, read_line
from volmek.core.results.figures import as_read
from volmek.core.results.findings import ORDER, Finding, Severity
from volmek.core.sizing import size
from volmek.core.standards.wording import in_practice

#: Tag of a starter that stands on no board yet.
NO_TAG = "M1"


@dataclass(frozen=True, slots=True)
class AnswerRow:
    """One thing to set or to fit.

    Attributes
    ----------
    subject, designation : overload, contactor, breaker …, and its designation
    answer : what to set or fit, ``14.8 A, class 10``
    beside : the device it is of, or what else belongs to it
    verdict : what the findings say of it
    """

    subject: str
    designation: str
    answer: str
    beside: str
    verdict: Severity | None


@dataclass(frozen=True, slots=True)
class Answer:
    """Settings and devices for one motor.

    Attributes
    ----------
    sentence : all of it in one
    method : starting method
    rows : each on its own, the overload setting first
    rests : what the current in use rests on
    on_plate : that is the plate
    devices_from : the catalogue
    findings : what is wrong and what to look at, the gravest first
    """

    sentence: str
    method: str
    rows: tuple[AnswerRow, ...]
    rests: str
    on_plate: bool
    devices_from: str
    findings: tuple[Finding, ...]


@dataclass(frozen=True, slots=True)
class QuickAnswer:
    """A line, how it was read, and the answer to it.

    Attributes
    ----------
    read : the line
    answer : None while something is missing or wrong
    needed : what is missing for an answer
    wrong : what contradicts, where no piece of the line is to blame
    """

    read: PlateLine
    answer: Answer | None
    needed: tuple[Problem, ...]
    wrong: tuple[Problem, ...]


def quick_answer(line: str, catalogue: Catalogue, practice: Practice | None = None) -> QuickAnswer:
    """Size the motor of a line.

    Parameters
    ----------
    line : as typed, ``7.5 kW 400 V 14.8 A``
    catalogue : the devices to choose from
    practice : None takes the one that the line proposes

    Raises
    ------
    ProblemError : the line is too long.

    Examples
    --------
    >>> from volmek.core.catalogue.catalogue import reference_catalogue
    >>> quick_answer("7.5 kW 400 V 14.8 A", reference_catalogue()).answer.sentence
    'Set the overload to 14.8 A, class 10; contactor RC-17; motor breaker RM-21; cable 1.5 mm² Cu.'
    >>> quick_answer("7.5 kW", reference_catalogue()).needed[0].field
    'motor.rated_voltage_delta_v'
    """
    read = read_line(line, practice)
    try:
        document = document_of(read)
        return QuickAnswer(read, answer_of(size(document, catalogue).design, catalogue.name), (), ())
    except ProblemError as error:
        needed = tuple(p for p in error.problems if p.missing)
        read, wrong = _at_pieces(read, [p for p in error.problems if not p.missing])
        return QuickAnswer(read, None, needed, wrong)


def document_of(read: PlateLine, **more: Any) -> StarterDocument:
    """The starter document of a line, with more parts of it.

    Raises
    ------
    ProblemError : a part is wrong.

    Examples
    --------
    >>> document_of(read_line("4 kW 400 V"), tag="P-1").tag
    'P-1'
    """
    return parse({"tag": NO_TAG, **read.document, **more})


def _at_pieces(read: PlateLine, problems: list[Problem]) -> tuple[PlateLine, tuple[Problem, ...]]:
    """Problems at the pieces of the line that brought their fields; the rest of them."""
    pieces, rest = list(read.pieces), []
    for problem in problems:
        at = next((i for i, p in enumerate(pieces) if problem.field in p.fields), None)
        if at is None:
            rest.append(problem)
        else:
            pieces[at] = replace(pieces[at], understood="", why=problem.message)
    return replace(read, pieces=tuple(pieces)), tuple(rest)


def answer_of(design: Design, devices_from: str = "") -> Answer:
    """Settings and devices of a design.

    Parameters
    ----------
    design : of the starter
    devices_from : name of the catalogue

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> s = example(starter={"type": "star_delta"})
    >>> [r.answer for r in answer_of(s.design).rows]
    ['8.31 A, class 10', 'K1, K2: RC-10; K3: RC-6', 'RM-15, set to 15 A', '3 s in star', '2.5 mm² Cu']
    """
    rows = [
        *_overloads(design),
        *_contactors(design),
        *(_row(design, d, "Soft starter", _picked(d), "") for d in design.devices if d.kind == "soft_starter"),
        *_breakers(design),
        *_timers(design),
        *_cables(design),
    ]
    source, amps = design.currents.design_current_source, as_read(design.currents.design_current_a)
    table = design.currents.table_current_a
    rests = {
        "nameplate": f"Plate current {amps} A.",
        "calculated": f"{amps} A calculated from power, voltage and typical cosφ and η: read the plate current.",
        "table": f"{amps} A from the table for a motor of this power: read the plate current.",
    }[source]
    if design.practice == "nec" and source == "nameplate" and table is not None:
        rests += f" Conductors and short-circuit device by the table current, {as_read(table)} A."
    said = [f"{r.subject[0].lower()}{r.subject[1:]} {r.answer}" for r in rows[1:]]
    first = f"Set the overload to {rows[0].answer}" if rows[0].designation else rows[0].answer
    return Answer(
        "; ".join([first, *said]) + ".",
        design.method,
        tuple(rows),
        rests,
        source == "nameplate",
        devices_from,
        tuple(f for f in design.findings if f.severity != "info"),
    )


def _row(design: Design, device: Device, subject: str, answer: str, beside: str) -> AnswerRow:
    return AnswerRow(subject, device.designation, answer, beside, design.verdict(device.designation))


def _picked(device: Device) -> str:
    if device.none_fits:
        return f"none in the catalogue fits; nearest {device.none_fits.nearest}"
    return str(device.selected.type or "none in the catalogue")


def _overloads(design: Design) -> list[AnswerRow]:
    """The settings that protect the motor; a breaker set to trip after its relays is not one of them."""
    relays = [d for d in design.devices if d.role.endswith("overload_relay")]
    acting = relays or [d for d in design.devices if d.role == "short_circuit_device" and d.settings.trip_class]
    rows = []
    for d in acting:
        s = d.settings
        subject = "Overload, low speed" if d.role.startswith("low_speed") else "Overload"
        answer = f"{as_read(s.dial_a)} A, class {s.trip_class}" if s.dial_a is not None else _picked(d)
        own = d.role == "short_circuit_device"
        beside = f"setting of {d.designation}" if own else f"{d.designation}: {picked_of(d)}"
        rows.append(_row(design, d, subject, answer, beside))
    return rows or [AnswerRow("Overload", "", "No overload protection in this starter", "", None)]


def _contactors(design: Design) -> list[AnswerRow]:
    contactors = [d for d in design.devices if d.kind in ("contactor", "nema_starter")]
    if not contactors:
        return []
    types: dict[str, list[str]] = {}
    for d in contactors:
        types.setdefault(_picked(d), []).append(d.designation)
    one = len(contactors) == 1
    said = "; ".join(t if one else f"{', '.join(names)}: {t}" for t, names in types.items())
    verdicts = [v for d in contactors if (v := design.verdict(d.designation))]
    needs = [f"{as_read(d.required.current_a)} A" for d in contactors if d.required.current_a is not None]
    subject = "Contactor" if one else "Contactors"
    beside = f"needed {', '.join(dict.fromkeys(needs))}" if needs else ""
    verdict = min(verdicts, key=lambda v: ORDER[v], default=None)
    return [AnswerRow(subject, contactors[0].designation, said, beside, verdict)]


def _breakers(design: Design) -> list[AnswerRow]:
    rows = []
    relays = any(d.role.endswith("overload_relay") for d in design.devices)
    for d in design.devices:
        if d.role == "short_circuit_device":
            s = d.selected
            answer = _picked(d)
            if s.range_min_a is None and s.rated_current_a is not None:
                answer += f", {as_read(s.rated_current_a)} A"
            elif relays and d.settings.dial_a is not None:
                answer += f", set to {as_read(d.settings.dial_a)} A"
            trips = [f"{n} {v}" for n, v in settings_as_read(d) if n == "magnetic trip"]
            rows.append(_row(design, d, d.label, answer, ", ".join(trips)))
    return rows


def _timers(design: Design) -> list[AnswerRow]:
    return [
        _row(
            design, d, "Timer", in_practice(f"{as_read(d.settings.star_time_s)} s in star", design.practice), _picked(d)
        )
        for d in design.devices
        if d.role == "star_delta_timer" and d.settings.star_time_s is not None
    ]


def _cables(design: Design) -> list[AnswerRow]:
    found = [d for d in design.devices if d.role == "motor_conductor"]
    return [_row(design, d, "Cable", _picked(d), "") for d in found]
