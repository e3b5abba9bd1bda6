"""A motor plate typed in one line: ``7.5 kW 400 V 14.8 A``, ``10 hp 460 V 3 ph``, ``1,1 kW 230 V 1~ 7.2 A``.

Nothing typed is dropped in silence: every piece is understood, or said not to be. What the line leaves open and a first
answer needs is assumed, and said.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.gauges import section_mm2
from volmek.core.document.model import Practice, parse
from volmek.core.document.rated import Reader, Values, paired, plain, power, quantity, rated, single
from volmek.core.document.units import NUMBER, in_unit_of, number_of, unit_pattern
from volmek.data.loader import handbook, standard

#: The longest line that is read.
LONGEST = 300
#: Plate or supply voltages of 60 Hz networks that no 50 Hz network has [V].
SIXTY_HERTZ_V = (115, 120, 200, 208, 277, 440, 460, 480, 575, 600)
#: Usual three-phase line voltages of low-voltage networks in IEC practice [V].
USUAL_LINE_V = (380.0, 400.0, 415.0, 440.0)
#: Up to this voltage a motor is taken as one for one phase.
SINGLE_UP_TO_V = 130.0
#: Line-to-neutral voltages of 50 Hz networks [V]; at these, volt-amperes per watt above the limit mean one phase.
LINE_TO_NEUTRAL_V, SINGLE_FROM_VA_PER_W = (220.0, 250.0), 1.3
#: Said of what stands on plates and changes nothing here.
NOT_NEEDED = "not needed here"
_SINGLE = {"direct": "single_phase_direct", "reversing": "single_phase_reversing"}
_DIRECT = "direct_on_line"


@dataclass(frozen=True, slots=True)
class Piece:
    """A stretch of the line.

    Attributes
    ----------
    start, end : where it stands, counted in characters
    typed : what stands there
    understood : what it was taken for, empty where it was not understood
    why : what is wrong with it
    fields : of the starter document that it brought
    """

    start: int
    end: int
    typed: str
    understood: str
    why: str = ""
    fields: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class PlateLine:
    """A line as it was read.

    Attributes
    ----------
    pieces : in their order
    document : the parts of a starter document that follow from it
    practice, proposed : in use, and what units and voltages speak for; the same unless somebody chose
    assumed : what was not typed and is taken, in sentences
    """

    pieces: tuple[Piece, ...]
    document: dict[str, Any]
    practice: Practice
    proposed: Practice
    assumed: tuple[str, ...]


def _section(match: re.Match[str]) -> tuple[Values, str] | None:
    value = section_mm2(match["size"])
    return ({"supply.cable_section_mm2": value}, "motor cable") if isinstance(value, float) else None


def _speed(match: re.Match[str]) -> tuple[Values, str]:
    # A plate has no thousandths of a turn: three digits behind the comma are thousands.
    typed = re.sub(r"^(\d{1,2}),(\d{3})$", r"\1\2", match["n"])
    return {"motor.rated_speed_rpm": number_of(typed)}, "rated speed"


@cache
def _readers() -> list[tuple[re.Pattern[str], Reader]]:
    """Possible meanings at a place of the line, the longest first."""
    volts = unit_pattern("v")
    rules: list[tuple[str, Reader]] = [
        *power(),
        (
            rf"(?:supply|mains|line|fed (?:with|at|from))\s*(?:of\s*|at\s*|=\s*)?(?P<n>{NUMBER})\s*(?P<u>{volts})(?!\w)",
            single("supply.line_voltage_v", "supply voltage"),
        ),
        (
            rf"(?P<n>{NUMBER})\s*(?P<u>{volts})\s*(?:supply|mains|network)(?!\w|\s*\d)",
            single("supply.line_voltage_v", "supply voltage"),
        ),
        (rf"(?:coil|control)\s*(?:voltage\s*)?(?P<n>{NUMBER})\s*(?P<u>{volts})(?P<kind>\s*(?:ac|dc))?(?!\w)", _control),
        (rf"(?P<n>{NUMBER})\s*(?P<u>{volts})(?P<kind>\s*(?:ac|dc))?\s*(?:coil|control)(?!\w|\s*\d)", _control),
        (
            rf"(?:ik\s*=?\s*|icc\s*=?\s*)?(?P<n>{NUMBER})\s*(?P<u>ka)(?!\w)",
            single("supply.prospective_current_ka", "prospective fault current"),
        ),
        (
            rf"(?:start(?:ing|s)?(?: time)?|run-?up)\s*(?:of\s*|=\s*)?(?P<n>{NUMBER})\s*(?P<u>{unit_pattern('s')})(?!\w)",
            single("load.start_time_s", "starting time"),
        ),
        (
            rf"(?P<n>{NUMBER})\s*(?P<u>{unit_pattern('s')})\s*(?:start(?:ing)?(?: time)?|run-?up)(?!\w)",
            single("load.start_time_s", "starting time"),
        ),
        *rated("voltage"),
        *rated("current"),
        (quantity("hz"), single("motor.frequency_hz", "frequency")),
        (rf"(?P<n>\d{{1,2}},\d{{3}}|{NUMBER})\s*(?P<u>{unit_pattern('rpm')})(?!\w)", _speed),
        (
            rf"(?:cos\s*(?:φ|ϕ|phi)?|pf|p\.f\.|power factor)\s*[:=]?\s*(?P<n>{NUMBER})(?![\w%])",
            plain("motor.power_factor", "power factor"),
        ),
        (
            rf"(?:η|eff\.?|efficiency|nom\.? eff\.?|nema nom\.? eff\.?)\s*[:=]?\s*(?P<n>{NUMBER})\s*%?(?!\w)",
            plain("motor.efficiency_pct", "efficiency"),
        ),
        (
            rf"(?:i[as]t?|ist|lr[ac])\s*/\s*(?:in|ir|fl[ac])\s*[:=]?\s*(?P<n>{NUMBER})(?:\s*[x×])?(?!\w)",
            plain("motor.locked_rotor_current_ratio", "starting current × In"),
        ),
        (
            rf"(?:sf|s\.f\.|service factor)\s*[:=]?\s*(?P<n>{NUMBER})(?!\w)",
            plain("motor.service_factor", "service factor"),
        ),
        (
            r"(?:kva |lr |locked[- ]rotor )?code(?: letter)?\s*[:=]?\s*(?P<n>[a-hj-npr-v])(?!\w)",
            lambda m: ({"motor.code_letter": m["n"].upper()}, "code letter"),
        ),
        (
            r"(?:nema )?design(?: letter)?\s*[:=]?\s*(?P<n>[a-d])(?!\w)",
            lambda m: ({"motor.nec_design_letter": m["n"].upper()}, "design letter"),
        ),
        (
            rf"(?:cable\s*(?:of\s*)?)?(?P<n>{NUMBER})\s*(?P<u>{unit_pattern('m')})(?:\s*(?:of )?(?:cable|run|away))?(?![\w²])",
            single("supply.cable_length_m", "length of the motor cable"),
        ),
        (quantity("mm2"), single("supply.cable_section_mm2", "motor cable")),
        (r"(?P<size>(?:\d{1,2}|[1-4]/0)\s*awg|\d{3,4}\s*(?:kcmil|mcm))(?!\w)", _section),
        (
            rf"(?:ambient\s*)?(?P<n>{NUMBER})\s*(?P<u>°\s?c|°\s?f|deg c|c|f)(?:\s*ambient)?(?!\w)",
            single("surroundings.ambient_c", "ambient"),
        ),
    ]
    not_needed = r"ip\s?\d\d\w?|(?:ins(?:ulation|\.)?\s*)?cl(?:ass|\.)\s*[abefhn]|(?:frame|fr)\.?\s*\w+|\d\s*-?\s*poles?|\d+(?:[.,]\d+)?\s*(?:kg|lbs?)"
    rules.append((rf"(?:{not_needed})(?!\w)", lambda m: ({}, NOT_NEEDED)))
    words = [
        (
            "|".join(
                re.escape(w).replace(r"\ ", r"[ ]+") for w in sorted(row["words"].split("|"), key=len, reverse=True)
            ),
            row,
        )
        for row in handbook("line_words")
    ]
    found = [(re.compile(pattern, re.IGNORECASE), reader) for pattern, reader in rules]
    for pattern, row in words:
        end = r"(?![\w~])"
        found.append((re.compile(rf"(?:{pattern}){end}", re.IGNORECASE), _word(dict(row))))
    return found


def _control(match: re.Match[str]) -> tuple[Values, str] | None:
    value = in_unit_of("control.voltage_v", f"{match['n']} {match['u']}")
    if not isinstance(value, float):
        return None
    said = f"{match['u']} {match['kind'] or ''}".lower()
    kind = {"control.kind": "dc"} if "dc" in said or "=" in said else {}
    return {"control.voltage_v": value, **kind}, "control voltage"


def _word(row: dict[str, str]) -> Reader:
    def read(match: re.Match[str]) -> tuple[Values, str]:
        values: Values = {row["field"]: int(row["value"]) if row["value"].isdigit() else row["value"]}
        return (values, row["says"]) if row["field"] else ({}, " ")

    return read


def _pieces(line: str) -> Iterator[tuple[Piece, Values]]:
    at = 0
    lost: int | None = None
    while at < len(line):
        best: tuple[int, Values, str] | None = None
        if at == 0 or not line[at - 1].isalnum() or lost is None:
            for pattern, reader in _readers():
                match = pattern.match(line, at)
                if match and match.end() > at and (best is None or match.end() > best[0]):
                    read = reader(match)
                    if read is not None and read[1]:
                        best = (match.end(), *read)
        if best is None:
            ends = line[at] == "." and line[at + 1 : at + 2] in ("", " ")
            if (ends or line[at] in " \t,;|/") and (lost is None or line[at] != "/"):
                if lost is not None:
                    yield Piece(lost, at, line[lost:at], ""), {}
                    lost = None
            elif lost is None:
                lost = at
            at += 1
            continue
        if lost is not None:
            yield Piece(lost, at, line[lost:at], ""), {}
            lost = None
        end, values, says = best
        yield Piece(at, end, line[at:end], says), values
        at = end
    if lost is not None:
        yield Piece(lost, len(line), line[lost:], ""), {}


#: Fields that say the same thing in several ways: the second one typed is not taken.
_SAME = (
    ("motor.rated_power_kw", "motor.rated_power_hp", "motor.rated_power_ps"),
    (
        "motor.rated_voltage_v",
        "motor.rated_voltage_delta_v",
        "motor.rated_voltage_star_v",
        "motor.rated_voltage_low_v",
        "motor.rated_voltage_high_v",
    ),
    (
        "motor.rated_current_a",
        "motor.rated_current_delta_a",
        "motor.rated_current_star_a",
        "motor.rated_current_low_a",
        "motor.rated_current_high_a",
    ),
)
_DELTA_STAR = ("_delta_", "_star_")


def _clashes(values: Values, taken: Values) -> str:
    """An earlier entry that contradicts this one."""
    for field in values:
        if field in taken and taken[field] != values[field]:
            return field
        for group in _SAME:
            if field in group:
                others = [f for f in group if f in taken and f != field]
                both = all(any(x in f for x in _DELTA_STAR) for f in (field, *others))
                if others and not both:
                    return others[0]
    return ""


def read_line(line: str, practice: Practice | None = None) -> PlateLine:
    """Motor and starter as read from a line.

    Parameters
    ----------
    line : as typed, at most 300 characters
    practice : chosen by the user; None takes the proposed one

    Raises
    ------
    ProblemError : the line is too long.

    Examples
    --------
    >>> read = read_line("7,5 kW 400 V 14.8 A turbo")
    >>> read.document["motor"]
    {'rated_power_kw': 7.5, 'rated_voltage_v': 400.0, 'rated_current_a': 14.8, 'phases': 3}
    >>> [p.typed for p in read.pieces if not p.understood], read.assumed[0]
    (['turbo'], 'Three-phase is assumed.')
    >>> read_line("7-1/2 hp 208-230/460 V FLA 22/11").proposed
    'nec'

    References
    ----------
    IEC 60034-1, clause 10, and NEMA MG 1, 10.40 (what stands on a rating plate).
    """
    if len(line) > LONGEST:
        raise ProblemError([Problem("line", f"{len(line)} characters; a line has at most {LONGEST}")])
    pieces: list[Piece] = []
    taken: Values = {}
    owner: dict[str, int] = {}
    for piece, values in _pieces(line):
        clash = _clashes(values, taken)
        if clash:
            first = pieces[owner[clash]].typed
            piece, values = replace(piece, understood="", why=f"{first} was entered before it; that is used"), {}
        for field in values:
            owner[field] = len(pieces)
        taken |= values
        if piece.understood.strip() or not piece.understood:
            pieces.append(piece)
    proposed = _proposed(taken, line)
    used = practice or ("nec" if taken.get("practice") == "nec" else "iec" if "practice" in taken else proposed)
    assumed = _assume(taken, owner, used)
    document = _nested({k: v for k, v in taken.items() if k != "practice"})
    document, refused = _accepted(document, owner, taken)
    for field, why in refused.items():
        if field in owner:
            pieces[owner[field]] = replace(pieces[owner[field]], understood="", why=why)
    brought = [replace(p, fields=tuple(f for f, at in owner.items() if at == i)) for i, p in enumerate(pieces)]
    return PlateLine(tuple(brought), {"practice": used, **document}, used, proposed, tuple(assumed))


def _proposed(taken: Values, line: str) -> Practice:
    volts = [v for k, v in taken.items() if k.endswith("_v") and "control" not in k]
    sixty = taken.get("motor.frequency_hz") == 60 or any(v in SIXTY_HERTZ_V for v in volts)
    american = "motor.rated_power_hp" in taken or {"motor.code_letter", "motor.nec_design_letter"} & set(taken)
    fifty = taken.get("motor.frequency_hz") == 50
    spoken = re.search(r"\b(?:wye|fl[ac]|lra|awg|kcmil|rvat|mcp|across the line)\b", line, re.IGNORECASE)
    return "nec" if (sixty or american or spoken) and not fifty else "iec"


def _assume(taken: Values, owner: dict[str, int], practice: Practice) -> list[str]:
    """Put in what a first answer needs and the line leaves open, each with its sentence."""
    said = []
    motor_volts = [taken[f] for f in _SAME[1] if f in taken]
    if "motor.phases" not in taken and motor_volts:
        if why := _one_phase(taken, motor_volts):
            taken["motor.phases"] = 1
            said.append(f"Single-phase is assumed: {why}.")
        else:
            taken["motor.phases"] = 3
            said.append("Three-phase is assumed.")
    if "supply.line_voltage_v" not in taken and motor_volts:
        volts = _system_voltage(taken, motor_volts, practice)
        taken["supply.line_voltage_v"] = volts
        said.append(f"Supply assumed to be {volts:g} V.")
    for where in (taken, owner):
        renamed = paired(where, "motor.")
        if renamed is not where:
            where.clear()
            where.update(renamed)
    said += _current_at(taken, owner)
    if (kind := taken.get("starter.type")) in _SINGLE:
        single = taken.get("motor.phases") == 1
        taken["starter.type"] = _SINGLE[kind] if single else _DIRECT if kind == "direct" else kind
    return said


def _current_at(taken: Values, owner: dict[str, int]) -> list[str]:
    """A plate with two voltages and one current: the current at the voltage of the supply."""
    supply, amps = taken.get("supply.line_voltage_v"), taken.get("motor.rated_current_a")
    two = {
        k: taken[f"motor.rated_voltage_{k}_v"]
        for k in ("delta", "star", "low", "high")
        if f"motor.rated_voltage_{k}_v" in taken
    }
    if amps is None or supply is None or len(two) < 2:
        return []
    at = min(two, key=lambda k: abs(two[k] - supply))
    for where in (taken, owner):
        where[f"motor.rated_current_{at}_a"] = where.pop("motor.rated_current_a")
    return [f"{amps:g} A taken as the current at {two[at]:g} V."]


def _one_phase(taken: Values, volts: list[float]) -> str:
    if len(volts) > 1 or any(f in taken for f in _SAME[1][1:]):
        return ""
    if volts[0] <= SINGLE_UP_TO_V:
        return f"{volts[0]:g} V"
    if "motor.single_phase_kind" in taken:
        return "the kind of motor"
    amps, power = taken.get("motor.rated_current_a"), _watts(taken)
    at_neutral = LINE_TO_NEUTRAL_V[0] <= volts[0] <= LINE_TO_NEUTRAL_V[1]
    if amps and power and at_neutral and volts[0] * amps / power > SINGLE_FROM_VA_PER_W:
        return f"{amps:g} A at {volts[0]:g} V is too much for three phases"
    return ""


def _watts(taken: Values) -> float | None:
    for field, unit in (("kw", 1000.0), ("hp", 745.7), ("ps", 735.5)):
        if power := taken.get(f"motor.rated_power_{field}"):
            return float(power) * unit
    return None


def _system_voltage(taken: Values, volts: list[float], practice: Practice) -> float:
    """Usual line voltage of motors with these plates."""
    if practice == "nec":
        high = max(volts)
        return next((r["system_v"] for r in standard("system_voltage_ansi") if r["motor_v"] == high), high)
    usual = [v for v in volts if USUAL_LINE_V[0] <= v <= USUAL_LINE_V[-1]]
    return min(usual or volts)


def _nested(flat: Values) -> dict[str, Any]:
    document: dict[str, Any] = {}
    for path, value in flat.items():
        part, _, field = path.partition(".")
        document.setdefault(part, {})[field] = value
    return document


def _accepted(document: dict[str, Any], owner: dict[str, int], taken: Values) -> tuple[dict[str, Any], dict[str, str]]:
    """The document without values that no document may hold, and why each of them may not be there."""
    refused: dict[str, str] = {}
    while True:
        try:
            parse({"tag": "-", **document})
            return document, refused
        except ProblemError as error:
            new = {p.field: p.message for p in error.problems if p.field not in refused}
            refused |= new
            kept = {k: v for k, v in taken.items() if k not in refused and k != "practice"}
            if not new:
                return {}, refused
            document = _nested(kept)
