"""The supply's system: its conductors, those that the starter takes, and their voltages."""

from cmath import exp, pi
from dataclasses import dataclass
from math import sqrt
from typing import get_args

from volmek.core.document.errors import Problem
from volmek.core.document.model import Conductors, Earthing, StarterDocument

LINES = ("L1", "L2", "L3")
#: Earthings that are possible where nothing is said, by practice.
POSSIBLE: dict[str, tuple[Earthing, ...]] = {
    "iec": ("tn", "tt", "it"),
    "nec": ("earthed_star", "corner", "high_leg", "ungrounded"),
}
#: Earthings without a defined voltage to earth.
FLOATING: tuple[Earthing, ...] = ("it", "ungrounded")
#: A voltage is there when it lies within this share of what a supply gives.
MATCH = 0.10
WORDS: dict[Conductors, str] = {
    "three_phase_4w": "three lines and neutral",
    "three_phase_3w": "three lines",
    "single_phase": "line and neutral",
    "split_phase": "two lines and neutral between them",
    "two_lines": "two lines of a three-phase network",
}


def matches(volts: float, given_v: float, share: float = MATCH) -> bool:
    """A voltage is one that the supply gives.

    Examples
    --------
    >>> matches(230, 400 / sqrt(3)), matches(24, 230)
    (True, False)
    """
    return abs(volts / given_v - 1) <= share + 1e-9


@dataclass(frozen=True, slots=True)
class SupplySystem:
    """The supply of one starter.

    Attributes
    ----------
    conductors : what comes to the board; ``line_voltage_v`` lies between two lines, of ``single_phase`` between line and neutral
    reason : why they are taken so, empty where the document says it
    taken : conductors that come to the starter, without the protective conductor
    line_voltage_v : as the document gives it [V]; None while it does not
    motor_voltage_v : between the conductors taken [V]; None while the line voltage is not known
    neutral : there is one; None where nothing says so
    earthings : as the document says, or each that is possible
    """

    conductors: Conductors
    reason: str
    taken: tuple[str, ...]
    line_voltage_v: float | None
    motor_voltage_v: float | None
    neutral: bool | None
    earthings: tuple[Earthing, ...]

    @property
    def certain(self) -> bool:
        """The document says which conductors there are."""
        return not self.reason

    @property
    def three_phase_source(self) -> bool:
        """The board is fed from a three-phase network."""
        return self.conductors in ("three_phase_4w", "three_phase_3w", "two_lines")

    @property
    def phase_voltage_v(self) -> float | None:
        """U0, between a line and the star point, the neutral or the middle [V]; None while the line voltage is not known."""
        return None if self.line_voltage_v is None else self.line_voltage_v * abs(self.phasor("L1"))

    @property
    def earthed(self) -> bool | None:
        """One point of the source is earthed; None where the document does not say."""
        if len(self.earthings) > 1:
            return None
        return self.earthings[0] not in FLOATING

    def phasor(self, conductor: str, earthing: Earthing | None = None) -> complex:
        """Voltage of a conductor [line voltages], as a phasor.

        Parameters
        ----------
        conductor : ``L1``, ``L2``, ``L3`` or ``N``
        earthing : to earth with this earthing; left out, against the neutral or star point

        Examples
        --------
        >>> s = SupplySystem("split_phase", "", ("L1", "L2"), 240.0, 240.0, True, ("tn",))
        >>> abs(s.phasor("L1") - s.phasor("L2")), abs(s.phasor("L1"))
        (1.0, 0.5)
        """
        if self.conductors == "single_phase":
            own = 1 + 0j if conductor != "N" else 0j
        elif self.conductors == "split_phase":
            own = {"L1": 0.5 + 0j, "L2": -0.5 + 0j}.get(conductor, 0j)
        else:
            turn = {"L1": 0, "L2": -1, "L3": 1}.get(conductor)
            own = 0j if turn is None else exp(2j * pi * turn / 3) / sqrt(3)
        if earthing == "corner":
            return own - self.phasor("L2")
        if earthing == "high_leg" and self.three_phase_source:
            return own - (self.phasor("L1") + self.phasor("L3")) / 2 if conductor != "N" else 0j
        return own

    def between_v(self, a: str, b: str) -> float | None:
        """Voltage between two conductors [V], None while the line voltage is not known."""
        if self.line_voltage_v is None:
            return None
        high_leg: Earthing | None = "high_leg" if self.earthings == ("high_leg",) else None
        return self.line_voltage_v * abs(self.phasor(a, high_leg) - self.phasor(b, high_leg))

    def to_earth_v(self, conductor: str, earthing: Earthing) -> float | None:
        """Voltage of a conductor to earth [V]; None where it is not defined or not known.

        Examples
        --------
        >>> s = SupplySystem("three_phase_3w", "", ("L1", "L2", "L3"), 240.0, 240.0, False, ("high_leg",))
        >>> [round(s.to_earth_v(x, "high_leg")) for x in ("L1", "L2", "L3")]
        [120, 208, 120]

        References
        ----------
        IEC 60364-1, 312.2 (types of earthing); NEC 250.20, 250.26, 110.15.
        """
        if earthing in FLOATING or self.line_voltage_v is None:
            return None
        return self.line_voltage_v * abs(self.phasor(conductor, earthing))

    def gives_v(self) -> dict[tuple[str, str], float]:
        """Pairs of conductors at the starter's board with the voltage between them [V], the neutral last in a pair."""
        there = [
            *(LINES if self.conductors.startswith("three") else self.taken_lines),
            *(["N"] if self.neutral is not False else []),
        ]
        found: dict[tuple[str, str], float] = {}
        for i, a in enumerate(there):
            for b in there[i + 1 :]:
                volts = self.between_v(a, b)
                if volts:
                    found[(a, b)] = volts
        return found

    @property
    def taken_lines(self) -> tuple[str, ...]:
        """The lines among the conductors taken."""
        return tuple(x for x in self.taken if x != "N")


def supply_system(document: StarterDocument) -> SupplySystem:
    """The supply of a document, guessed where it says nothing and the guess is plain.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> pump = {"tag": "A", "motor": {"phases": 1, "rated_voltage_v": 230}, "supply": {"line_voltage_v": 230}}
    >>> s = supply_system(parse(pump))
    >>> s.conductors, s.taken, s.earthings
    ('single_phase', ('L1', 'N'), ('tn', 'tt', 'it'))

    References
    ----------
    IEC 60364-1, 312.1 (conductors); usual networks of both practices.
    """
    m, s = document.motor, document.supply
    volts = s.line_voltage_v
    earthings = (s.system,) if s.system else POSSIBLE[document.practice]
    if m.phases == 3:
        conductors, reason = _three(document)
        neutral = True if conductors == "three_phase_4w" else False if s.conductors else s.neutral
        return SupplySystem(conductors, reason, LINES, volts, volts, neutral, earthings)
    conductors, reason = _single(document)
    plate = [v for v in (m.rated_voltage_v, m.rated_voltage_low_v, m.rated_voltage_high_v) if v]
    taken: tuple[str, ...] = ("L1", "N") if conductors == "single_phase" else ("L1", "L2")
    across = volts
    if conductors != "single_phase" and volts:
        share = 0.5 if conductors == "split_phase" else 1 / sqrt(3)
        to_line = any(matches(volts, v) for v in plate)
        if (
            not to_line
            and any(matches(volts * share, v) for v in plate)
            and conductors not in ("two_lines", "three_phase_3w")
        ):
            taken, across = ("L1", "N"), volts * share
    has_neutral: bool | None = conductors in ("single_phase", "split_phase", "three_phase_4w")
    if not has_neutral and not s.conductors:
        has_neutral = s.neutral
    return SupplySystem(conductors, reason, taken, volts, across, has_neutral, earthings)


def _three(document: StarterDocument) -> tuple[Conductors, str]:
    s = document.supply
    if s.conductors:
        return s.conductors, ""
    if s.neutral:
        return "three_phase_4w", "a three-phase motor, and the neutral is given"
    said = "no neutral is present" if s.neutral is False else "no neutral is given"
    return "three_phase_3w", f"a three-phase motor, and {said}"


def _single(document: StarterDocument) -> tuple[Conductors, str]:
    """Conductors of a single-phase motor's supply."""
    m, s = document.motor, document.supply
    if s.conductors:
        return s.conductors, ""
    volts = s.line_voltage_v
    plate = [v for v in (m.rated_voltage_v, m.rated_voltage_low_v, m.rated_voltage_high_v) if v]
    if volts is None:
        return "single_phase", "a single-phase motor, and no voltage is given"
    to_line = any(matches(volts, v) for v in plate)
    if not to_line and any(matches(volts / sqrt(3), v) for v in plate):
        return "three_phase_4w", f"the motor's {plate[0]:g} V stand between line and neutral of {volts:g} V"
    if not to_line and document.practice == "nec" and any(matches(volts / 2, v) for v in plate):
        return "split_phase", f"the motor's {plate[0]:g} V stand between line and neutral of {volts:g} V"
    if document.practice == "nec":
        if 215 <= volts <= 250:
            return "split_phase", f"{volts:g} V for one phase is usually 120/240 V, three wires"
        if volts <= 130:
            return "single_phase", f"{volts:g} V for one phase is usually line and neutral"
        return "two_lines", f"{volts:g} V for one phase stands between two lines of a three-phase network"
    if volts >= 260:
        return "two_lines", f"{volts:g} V for one phase stands between two lines of a three-phase network"
    if s.system == "it":
        return "two_lines", f"on an IT network {volts:g} V may stand between two lines: say which"
    return "single_phase", f"{volts:g} V for one phase is usually line and neutral"


def supply_problems(document: StarterDocument) -> list[Problem]:
    """Conductors and earthing that contradict motor, voltage or practice.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> [p.field for p in supply_problems(parse({"tag": "A", "supply": {"conductors": "single_phase"}}))]
    ['supply.conductors']
    """
    m, s = document.motor, document.supply
    found: list[Problem] = []
    if m.phases == 3 and s.conductors and not s.conductors.startswith("three"):
        found.append(Problem("supply.conductors", f"a three-phase motor needs three lines, not {WORDS[s.conductors]}"))
    neutral_there = s.conductors in ("single_phase", "split_phase", "three_phase_4w")
    if s.neutral is False and neutral_there:
        assert s.conductors
        found.append(Problem("supply.neutral", f"{WORDS[s.conductors]}: a neutral is there"))
    if s.neutral and s.conductors in ("three_phase_3w", "two_lines"):
        found.append(Problem("supply.neutral", f"{WORDS[s.conductors]}: no neutral is present"))
    if s.conductors in ("single_phase", "split_phase") and s.system in ("corner", "high_leg"):
        found.append(Problem("supply.system", f"{WORDS[s.conductors]}: there is no corner and no high leg"))
    if s.system and s.system not in ("tn_c", *POSSIBLE[document.practice]) and s.system not in POSSIBLE["iec"]:
        found.append(Problem("supply.system", f"{s.system.replace('_', ' ')} belongs to North American practice"))
    return found


assert set(WORDS) == set(get_args(Conductors))
