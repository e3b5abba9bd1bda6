"""Connection of the motor's ends: what the plate and the supply ask for, which links are laid, and which are taken out."""

from dataclasses import dataclass
from typing import Literal

from volmek.core.document.model import StarterDocument, method_of
from volmek.core.installation.supply import supply_system

Connection = Literal["delta", "star", "parallel", "series", "plate", "unknown"]
#: Leads joined to each line, and leads joined to each other, of motors for a low and a high voltage (NEMA MG 1, part 2).
LEADS: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "9.star.parallel": (("1 7", "2 8", "3 9"), ("4 5 6",)),
    "9.star.series": (("1", "2", "3"), ("4 7", "5 8", "6 9")),
    "9.delta.parallel": (("1 6 7", "2 4 8", "3 5 9"), ()),
    "9.delta.series": (("1", "2", "3"), ("4 7", "5 8", "6 9")),
    "12.star.parallel": (("1 7", "2 8", "3 9"), ("4 5 6", "10 11 12")),
    "12.star.series": (("1", "2", "3"), ("4 7", "5 8", "6 9", "10 11 12")),
    "12.delta.parallel": (("1 6 7 12", "2 4 8 10", "3 5 9 11"), ()),
    "12.delta.series": (("1 12", "2 10", "3 11"), ("4 7", "5 8", "6 9")),
}
#: Methods whose contactors join the ends of the windings: every link of the terminal box comes out.
LINKS_OUT = ("star_delta", "star_delta_manual", "star_delta_closed", "part_winding")


def accepts(plate_v: float, plate_hz: float, line_v: float, line_hz: float, *, nec: bool = False) -> tuple[bool, str]:
    """Use of a plate voltage on a supply.

    Parameters
    ----------
    plate_v, plate_hz, line_v, line_hz : [V], [Hz], > 0
    nec : North American practice, where the whole band counts alike

    Returns
    -------
    Usable, and the zone: empty, ``zone_b``, ``other_frequency`` or ``under_fluxed``.

    Examples
    --------
    >>> accepts(400, 50, 400, 50), accepts(400, 50, 480, 60), accepts(230, 50, 400, 50)
    ((True, ''), (True, 'other_frequency'), (False, ''))

    References
    ----------
    IEC 60034-1, 7.3 (zones A and B); NEMA MG 1, 12.44.
    """
    deviation, hertz = line_v / plate_v - 1, line_hz / plate_hz - 1
    if -0.05 - 1e-9 <= hertz <= 0.03 + 1e-9:
        if abs(deviation) > 0.10 + 1e-9:
            return False, ""
        inner = nec or (abs(deviation) <= 0.05 + 1e-9 and abs(hertz) <= 0.02 + 1e-9)
        return True, "" if inner else "zone_b"
    if abs(line_v / (plate_v * line_hz / plate_hz) - 1) <= 0.10 + 1e-9:
        return True, "other_frequency"
    if line_hz > plate_hz and abs(deviation) <= 0.10 + 1e-9:
        return True, "under_fluxed"
    return False, ""


def frequencies_hz(document: StarterDocument) -> tuple[float, float]:
    """Frequency of the supply and of the plate [Hz]; one that is not given is the other, or the usual one.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> frequencies_hz(parse({"tag": "A", "practice": "nec", "motor": {"frequency_hz": 50}, "supply": {"frequency_hz": 60}}))
    (60.0, 50.0)
    """
    line_hz = (
        document.supply.frequency_hz or document.motor.frequency_hz or (60.0 if document.practice == "nec" else 50.0)
    )
    return line_hz, document.motor.frequency_hz or line_hz


def plate_voltages(document: StarterDocument) -> list[tuple[Connection, float]]:
    """Voltages on the plate, each with the connection that it belongs to."""
    m = document.motor
    given: list[tuple[Connection, float | None]] = [
        ("plate", m.rated_voltage_v), ("delta", m.rated_voltage_delta_v), ("star", m.rated_voltage_star_v), ("parallel", m.rated_voltage_low_v),
        ("series", m.rated_voltage_high_v),
    ]  # fmt: skip
    return [(kind, volts) for kind, volts in given if volts]


@dataclass(frozen=True, slots=True)
class MotorConnection:
    """Connection of the motor's ends while it runs.

    Attributes
    ----------
    kind : ``plate`` where the maker's diagram decides, ``unknown`` where nothing does
    out : the contactors join the ends: every link comes out
    groups : leads on the three lines, and leads joined to each other, of a motor with nine or twelve
    drawing : name of the drawing of the terminal box; None where it would be a guess
    asks : what has to be found out before the motor is connected; empty where nothing has
    """

    kind: Connection
    out: bool
    groups: tuple[tuple[str, ...], tuple[str, ...]] | None
    drawing: str | None
    asks: str = ""

    @property
    def linked(self) -> bool:
        """Links are laid in the terminal box."""
        return not self.out and (self.kind in ("delta", "star") or self.groups is not None)


def motor_connection(document: StarterDocument) -> MotorConnection:
    """Connection of a document's motor, unknown where plate or supply do not tell.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> one = {"tag": "A", "motor": {"rated_voltage_v": 400, "leads": 3}, "supply": {"line_voltage_v": 400}}
    >>> motor_connection(parse(one)).kind, motor_connection(parse(one)).linked
    ('plate', False)
    >>> two = {"tag": "A", "motor": {"rated_voltage_delta_v": 400}, "starter": {"type": "star_delta"}, "supply": {"line_voltage_v": 400}}
    >>> motor_connection(parse(two)).drawing
    'links.out'

    References
    ----------
    IEC 60034-8 and NEMA MG 1, part 2 (terminal markings).
    """
    m, s = document.motor, document.supply
    method = method_of(document)
    kind = _kind(document)
    if m.phases == 1:
        return MotorConnection(kind, out=False, groups=None, drawing="links.loop")
    if method in LINKS_OUT:
        six = method != "part_winding" and m.leads in (None, 6)
        return MotorConnection(kind, out=True, groups=None, drawing="links.out" if six else None)
    if kind in ("parallel", "series"):
        key = f"{m.leads or 9}.{m.lead_connection}.{kind}"
        if m.lead_connection is None:
            asks = "Nine or twelve leads can be wound in star or in delta: tell them apart with a meter (three pairs and one group of three: star; three groups of three: delta)."
            return MotorConnection(kind, out=False, groups=None, drawing=None, asks=asks)
        return MotorConnection(kind, out=False, groups=LEADS[key], drawing=f"links.{key}")
    if kind in ("delta", "star"):
        linked = m.leads in (None, 6, 12)
        return MotorConnection(
            kind if linked else "plate", out=False, groups=None, drawing=f"links.{kind}" if linked else None
        )
    asks = ""
    if kind == "unknown" and s.line_voltage_v is not None:
        asks = "Neither plate nor supply shows how the motor's ends are connected."
    elif kind == "plate" and m.leads not in (None, 3):
        asks = f"A plate with one voltage does not show how its {m.leads} leads are joined: connect them as the maker's diagram shows."
    return MotorConnection(kind, out=False, groups=None, drawing=None, asks=asks)


def _kind(document: StarterDocument) -> Connection:
    volts = supply_system(document).motor_voltage_v
    if volts is None:
        return "unknown"
    nec = document.practice == "nec"
    line_hz, plate_hz = frequencies_hz(document)
    usable = (kind for kind, v in plate_voltages(document) if accepts(v, plate_hz, volts, line_hz, nec=nec)[0])
    return next(usable, "unknown")
