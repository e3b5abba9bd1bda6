"""The source of the control circuit: its feed, its two rails with their voltages, and what takes it away."""

from dataclasses import dataclass
from typing import Literal

from volmek.core.document.model import Control, Earthing, StarterDocument
from volmek.core.installation.supply import LINES, SupplySystem, matches, supply_system

SourceKind = Literal["line_neutral", "two_lines", "transformer", "power_unit", "separate", "unknown"]
RailRole = Literal["line", "neutral", "control", "separate"]
#: Share of the coil voltage within which a source fits without a word, and with one.
FITS, BARELY = 0.05, 0.10
FOLLOWING = {"L1": "L2", "L2": "L3", "L3": "L1"}
KINDS: dict[SourceKind, str] = {
    "line_neutral": "line and neutral", "two_lines": "two lines", "transformer": "control transformer", "power_unit": "DC power unit",
    "separate": "supply of its own from outside", "unknown": "not decided",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Rail:
    """One side of the control supply, behind its breaker.

    Attributes
    ----------
    name : on drawings and in words
    number : of its wire: 0 only for what stands at earth
    role : what decides the colour: a line's own, the neutral's, that of control wires, that of a separate supply
    live : it may stand at a voltage to earth
    """

    name: str
    number: str
    role: RailRole
    live: bool


@dataclass(frozen=True, slots=True)
class ControlSource:
    """Source of the control voltage.

    Attributes
    ----------
    kind : what it is
    reason : why, empty where the document says it
    feeds : conductors of the supply that it hangs on; none for a supply of its own
    before_main : tapped before the main breaker
    rails : the switched side, and the return
    earthed : one side is earthed; None where nothing says so
    earthings : of the network, for what is taken from it without a transformer
    voltage_v, dc : of the control circuit; None while it is not given
    missing : the field and the reason where this source cannot give the voltage
    centre : the middle of the transformer's secondary is earthed, and both its ends are live
    """

    kind: SourceKind
    reason: str
    feeds: tuple[str, ...]
    before_main: bool
    rails: tuple[Rail, Rail]
    earthed: bool | None
    earthings: tuple[Earthing, ...]
    voltage_v: float | None
    dc: bool
    missing: tuple[str, str] | None = None
    centre: bool = False

    @property
    def from_lines(self) -> bool:
        """It is fed directly from the motor's network."""
        return self.kind in ("line_neutral", "two_lines", "unknown")

    @property
    def transformed(self) -> bool:
        """A transformer or power unit with a primary breaker makes it."""
        return self.kind in ("transformer", "power_unit")

    @property
    def alive_with_main_off(self) -> bool:
        """It stays live when the main breaker is off."""
        return self.kind == "separate" or self.before_main

    @property
    def both_live(self) -> bool:
        """Neither rail is at earth potential."""
        return all(r.live for r in self.rails)

    @property
    def shares_earth_faults(self) -> bool:
        """An earth fault does not short it: it leaves a coil a share of the voltage, since both rails are live against an earthed point."""
        return self.centre or (self.from_lines and self.both_live)

    @property
    def breaker_poles(self) -> int:
        """Poles of the control breaker: two where the return may be live too.

        References
        ----------
        IEC 60204-1, 7.2.4 and 9.1.3.
        """
        return 2 if self.rails[1].live else 1

    @property
    def lost_with(self) -> tuple[str, ...]:
        """Conductors whose loss takes the control voltage away; ``C`` is a separate supply."""
        return ("C",) if self.kind == "separate" else self.feeds

    @property
    def words(self) -> str:
        """Feed of the control circuit, in the words of a sheet.

        Examples
        --------
        >>> from volmek.core.document.model import parse
        >>> control_source(parse({"tag": "A", "control": {"voltage_v": 24, "kind": "dc", "source": "separate"}})).words
        'supply of its own from outside, 24 V DC'
        """
        volts = f", {self.voltage_v:g} V {'DC' if self.dc else 'AC'}" if self.voltage_v else ""
        lines = f" {' and '.join(self.feeds)}" if self.from_lines and self.kind != "unknown" else ""
        on = f" on {' and '.join(self.feeds)}" if self.transformed else ""
        before = ", tapped before the main breaker" if self.before_main else ""
        what = "from" if lines else KINDS[self.kind]
        centre = ", centre earthed" if self.centre else ""
        return f"{what}{lines}{on}{volts}{before}{centre}"


def control_source(document: StarterDocument, supply: SupplySystem | None = None) -> ControlSource:
    """The control source of a document: as asked for, or worked out from the voltages that are there.

    Parameters
    ----------
    supply : of the same document, where it is at hand

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> d = {"tag": "A", "supply": {"line_voltage_v": 400, "neutral": True}, "control": {"voltage_v": 24}}
    >>> control_source(parse(d)).kind
    'transformer'

    References
    ----------
    IEC 60204-1, 9.1.1 (control supply), 7.2.4 (protection), 9.4.3 (earthing); NEC 430.72.
    """
    system, c = supply or supply_system(document), document.control
    kind, reason, missing = _kind(c, system)
    feeds = _feeds(kind, c, system)
    earthed = _earthed(kind, c, system)
    before = c.tap == "before_main" and kind != "separate"
    centre = kind == "transformer" and earthed is True and c.earthed_point == "centre"
    return ControlSource(
        kind, reason, feeds, before, _rails(kind, c, feeds, earthed, centre=centre), earthed, system.earthings, c.voltage_v, c.kind == "dc", missing, centre
    )  # fmt: skip


def _there(c: Control, system: SupplySystem, share: float = BARELY) -> tuple[SourceKind, tuple[str, str]] | None:
    """The pair of conductors with the control voltage between them, line and neutral first."""
    if c.voltage_v is None or c.kind == "dc":
        return None
    pairs = sorted(system.gives_v().items(), key=lambda x: ("N" not in x[0], x[0]))
    first = _first(c, system)
    for (a, b), volts in sorted(pairs, key=lambda x: (x[0][1] != "N", first not in x[0])):
        if matches(c.voltage_v, volts, share):
            return ("line_neutral", (a, b)) if b == "N" else ("two_lines", (a, b))
    return None


def _kind(c: Control, system: SupplySystem) -> tuple[SourceKind, str, tuple[str, str] | None]:
    asked, volts = c.source, c.voltage_v
    if asked == "separate":
        return "separate", "", None
    if asked == "transformer":
        dc = (
            ("control.kind", "a transformer gives no direct current: choose the DC power unit")
            if c.kind == "dc"
            else None
        )
        return "transformer", "", dc
    if asked == "power_unit":
        ac = ("control.kind", "a DC power unit gives direct current only") if c.kind == "ac" else None
        return "power_unit", "", ac
    there = _there(c, system)
    if volts is None or system.line_voltage_v is None:
        said = "no control voltage is given" if volts is None else "the line voltage is not given"
        usual: SourceKind = "unknown"
        return usual, said, None
    if there:
        pair = f"{volts:g} V stand between {' and '.join(there[1])}"
        assumed = "; a neutral is assumed" if there[0] == "line_neutral" and system.neutral is None else ""
        return there[0], "" if asked == "common" and not assumed else pair + assumed, None
    to_neutral = system.phase_voltage_v
    if asked == "common" and system.neutral is False and to_neutral and c.kind == "ac" and matches(volts, to_neutral):
        return "line_neutral", "", None
    given = sorted({round(v) for v in system.gives_v().values()})
    what = f"the supply gives {' and '.join(f'{v} V' for v in given)}, not {volts:g} V{' DC' if c.kind == 'dc' else ''}"
    if asked == "common":
        nearest: SourceKind = (
            "two_lines" if system.neutral is False or ("N" not in system.taken and volts > 300) else "line_neutral"
        )
        return nearest, "", ("control.source", what)
    return ("power_unit" if c.kind == "dc" else "transformer"), what, None


def _first(c: Control, system: SupplySystem) -> str:
    return c.control_phase if c.control_phase in system.taken_lines else system.taken_lines[0]


def _feeds(kind: SourceKind, c: Control, system: SupplySystem) -> tuple[str, ...]:
    if kind == "separate":
        return ()
    first = _first(c, system)
    if kind in ("line_neutral", "unknown"):
        return (first, "N")
    others = [x for x in system.taken if x != first]
    if system.conductors.startswith("three") and len(system.taken) == 3:
        return (first, FOLLOWING[first])
    if kind == "two_lines":
        return (first, next((x for x in others if x in LINES), FOLLOWING[first]))
    return (first, others[0])


def _earthed(kind: SourceKind, c: Control, system: SupplySystem) -> bool | None:
    if kind in ("line_neutral", "two_lines", "unknown"):
        return system.earthed
    return c.earthed


def _rails(
    kind: SourceKind, c: Control, feeds: tuple[str, ...], earthed: bool | None, *, centre: bool
) -> tuple[Rail, Rail]:
    if kind in ("line_neutral", "unknown"):
        return Rail(feeds[0], "1", "control", True), Rail("N", "0", "neutral", earthed is False)
    if kind == "two_lines":
        return Rail(feeds[0], "1", "control", True), Rail(feeds[1], f"F3{feeds[1]}", "line", True)
    if centre:
        return Rail("s1", "1", "control", True), Rail("s2", "s2", "control", True)
    grounded = earthed is True
    if kind == "transformer":
        return Rail("L", "1", "control", True), Rail(
            "N" if grounded else "s2", "0" if grounded else "s2", "control", not grounded
        )
    if kind == "power_unit":
        return Rail("L+", "1", "control", True), Rail("M", "0" if grounded else "M", "control", not grounded)
    live, back = ("L+", "M") if c.kind == "dc" else ("C1", "C2")
    return Rail(live, live, "separate", True), Rail(back, "0" if grounded else back, "separate", not grounded)


def against_earth_v(source: ControlSource, system: SupplySystem, rail: int) -> tuple[float | None, ...]:
    """Voltage of a rail to earth for each earthing that is possible [V]; None where it is not defined.

    Parameters
    ----------
    rail : 0 the switched side, 1 the return

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> d = parse({"tag": "A", "supply": {"line_voltage_v": 400, "system": "tn"}, "control": {"voltage_v": 400}})
    >>> s = supply_system(d)
    >>> [round(against_earth_v(control_source(d, s), s, k)[0]) for k in (0, 1)]
    [231, 231]

    References
    ----------
    IEC 60364-1, 312.2; IEC 60204-1, 9.4.3.
    """
    if source.from_lines:
        return tuple(system.to_earth_v(source.feeds[rail], e) for e in system.earthings)
    if source.earthed is None:
        return (None, source.voltage_v if rail == 0 else 0.0)
    if source.earthed is False:
        return (None,)
    if source.centre:
        return (source.voltage_v / 2 if source.voltage_v else None,)
    return (source.voltage_v if rail == 0 else 0.0,)


def greatest_earth_fault_share(source: ControlSource, system: SupplySystem) -> float:
    """Greatest share of the control voltage that one earth fault leaves on a coil between two live rails.

    Parameters
    ----------
    source, system : of one document

    Returns
    -------
    Over every earthing that is possible and both rails [-].

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> d = parse({"tag": "A", "supply": {"line_voltage_v": 400, "system": "tn"}, "control": {"voltage_v": 400}})
    >>> s = supply_system(d)
    >>> round(greatest_earth_fault_share(control_source(d, s), s), 3)
    0.577

    References
    ----------
    IEC 60204-1, 9.4.3.1; arithmetic of the network: voltage of the other rail to earth over that between the rails.
    """
    if not source.shares_earth_faults:
        return 0.0
    if source.centre:
        return 0.5
    between = system.between_v(*source.feeds)
    found = [v for e in system.earthings for k in (0, 1) if (v := system.to_earth_v(source.feeds[k], e)) is not None]
    return max(found, default=0.0) / between if between else 0.0


def reading_words(values: tuple[float | None, ...], other: str) -> str:
    """Meter reading of a conductor, in words.

    Parameters
    ----------
    values : to earth, for each earthing that is possible
    other : the conductor against which it is measured where the voltage to earth is not defined

    Examples
    --------
    >>> reading_words((231.0,), "N"), reading_words((0.0,), "N"), reading_words((None,), "M")
    ('about 231 V to earth', '0 V to earth', 'not defined to earth: measure to M')
    """
    known = sorted({round(v) for v in values if v is not None})
    floating = any(v is None for v in values)
    if not known:
        return f"not defined to earth: measure to {other}"
    volts = " or ".join("0 V" if v == 0 else f"about {v} V" for v in known)
    said = f"{volts} to earth"
    return f"{said} by the earthing, which is not known: measure to {other}" if floating or len(known) > 1 else said
