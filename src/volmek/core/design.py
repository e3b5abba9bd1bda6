"""The results of a sizing as plain data: what files, pages and papers show."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.catalogue.device_types import Device as CatalogueDevice
from volmek.core.coordination.coordination import Coordination
from volmek.core.devices.device import Device
from volmek.core.devices.settings import known, plain
from volmek.core.lineup import LineUpItem
from volmek.core.plate.plate import Plate
from volmek.core.results.drawing import Drawing
from volmek.core.results.figures import Figure
from volmek.core.results.findings import Finding, Severity
from volmek.core.standards.cautions import SETTINGS
from volmek.core.standards.wording import in_practice
from volmek.core.start.start import Start


@dataclass(frozen=True, slots=True)
class Currents:
    """The currents of the motor; the one in use and the two beside it, with the reason for each."""

    design_current_a: float
    design_current_source: str
    nameplate_current_a: float | None
    calculated_current_a: float | None
    table_current_a: float | None
    locked_rotor_current_a: float
    starting_line_current_a: float
    permitted_current_a: float
    reasons: dict[str, str]


@dataclass(frozen=True, slots=True)
class SupplyResult:
    """Supply of a design.

    Attributes
    ----------
    line_voltage_v : across the motor
    conductors, conductors_reason : of the supply; the reason is empty where the document says them
    taken : conductors that come to the starter
    earthing : as the document says, empty while it is not known
    """

    line_voltage_v: float
    frequency_hz: float
    prospective_current_ka: float | None
    conductors: str = ""
    conductors_reason: str = ""
    taken: tuple[str, ...] = ()
    earthing: str = ""


@dataclass(frozen=True, slots=True)
class ControlResult:
    """Control supply of a design.

    Attributes
    ----------
    source, reason : where it comes from; the reason is empty where the document says it
    words : the same for a sheet
    feeds, rails : conductors that it hangs on, and the names of its two sides
    live_with_main_off : it stays live when the main breaker is off
    """

    source: str
    reason: str
    words: str
    feeds: tuple[str, ...]
    rails: tuple[str, ...]
    live_with_main_off: bool


@dataclass(frozen=True, slots=True)
class StartResult:
    """Start of a design; times and currents of the run-up only where one could be computed.

    Attributes
    ----------
    start_time_s, start_time_source : what the devices have to stand: ``typed``, ``assumed`` or ``run-up``
    run_up_time_s : from the first contact to 98 % of the final speed, None where it hangs or is not known
    star_time_s : length of the first stage, typed or proposed
    changeover_speed_pct, changeover_current_a : of synchronous speed at its end, and line current of the next stage there
    stalls : it never gets to its running speed
    stall_speed_pct : where it hangs
    """

    start_time_s: float
    start_time_source: str
    run_up_time_s: float | None = None
    star_time_s: float | None = None
    changeover_speed_pct: float | None = None
    changeover_current_a: float | None = None
    stalls: bool | None = None
    stall_speed_pct: float | None = None


def start_result(start: Start) -> StartResult:
    """Its figures, as files and screens show them."""
    r = start.result
    if r is None:
        return StartResult(start.figure.number, start.source)
    return StartResult(
        start.figure.number,
        start.source,
        None if r.stalls else r.run_up_time_s,
        start.star_time_s,
        start.changeover_speed_pct,
        start.changeover_current_a,
        r.stalls,
        100 * r.final_speed if r.stalls else None,
    )


@dataclass(frozen=True, slots=True)
class Design:
    """Computed design of one starter.

    Attributes
    ----------
    tag, service, practice, method : whose it is
    connection : ``delta``, ``star``, ``parallel``, ``series``, or ``plate`` when the plate has one voltage
    currents, supply, control, start : results
    devices : from the supply down
    findings : the gravest first
    figures : every figure with its working, by id
    line_up : the single-line, from the supply down
    links : name of the drawing of the motor's terminal links, None when the plate does not tell
    coordination : what is proven of breaker, contactor and relay together, and the nearest tested sets
    overload_band : drawing of where the overload protection holds and trips
    offered : choices that motor, supply and practice allow, by field
    cautions : standing sentences
    """

    tag: str
    service: str
    practice: str
    method: str
    connection: str
    currents: Currents
    supply: SupplyResult
    control: ControlResult
    devices: list[Device]
    start: StartResult
    findings: list[Finding]
    figures: Mapping[str, Figure]
    line_up: list[LineUpItem]
    links: str | None
    overload_band: Drawing
    coordination: Coordination
    offered: Mapping[str, tuple[str, ...]]
    cautions: tuple[str, ...] = SETTINGS

    def verdict(self, designation: str) -> Severity | None:
        """``stop`` or ``attention`` when a finding says so of a device, else None."""
        return next((f.severity for f in self.findings if f.device == designation and f.severity != "info"), None)

    def to_json(self, *, working: bool = False) -> dict[str, Any]:
        """The design as plain data; with ``working`` every figure and candidate too."""
        data: dict[str, Any] = {
            "tag": self.tag,
            "service": self.service,
            "practice": self.practice,
            "method": self.method,
            "connection": self.connection,
            "currents": known(self.currents),
            "supply": known(self.supply),
            "control": plain(self.control),
            "devices": [self._device(d, working) for d in self.devices],
            "start": known(self.start),
            "coordination": {k: v for k, v in asdict(self.coordination).items() if v is not None},
            "findings": [plain(f) for f in self.findings],
        }
        if working:
            data["figures"] = {id: asdict(f) for id, f in self.figures.items()}
        return data

    def _device(self, d: Device, working: bool) -> dict[str, Any]:
        data: dict[str, Any] = {
            "designation": d.designation,
            "role": d.role,
            "kind": d.kind,
            "required": known(d.required),
            "selected": known(d.selected),
            "settings": known(d.settings),
            "verdict": self.verdict(d.designation) or "fine",
        }
        if d.none_fits:
            data["none_fits"] = plain(d.none_fits)
        if d.override_reason:
            data["override"] = {"values": list(d.overridden), "reason": d.override_reason}
        if working:
            data["figures"] = [f.id for f in d.figures]
            data["candidates"] = [asdict(x) for x in d.choice.candidates]
        return data


def worded(d: Design) -> Design:
    """A design in the words of its practice; figures are worded where they are shown.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> s = example(practice="nec", starter={"type": "star_delta"}, protection={"device": "inverse_time_breaker"}).design
    >>> next(x.label for x in s.devices if x.role == "star_contactor"), s.method
    ('Wye contactor, NEMA size 0', 'Wye-delta, timed')
    """
    if d.practice == "iec":
        return d

    def say(text: str) -> str:
        return in_practice(text, d.practice)

    return replace(
        d,
        method=say(d.method),
        devices=[replace(x, label=say(x.label)) for x in d.devices],
        findings=[replace(f, message=say(f.message), fix=say(f.fix), rule=say(f.rule)) for f in d.findings],
        line_up=[replace(i, title=say(i.title), rating=say(i.rating), setting=say(i.setting)) for i in d.line_up],
        cautions=tuple(say(c) for c in d.cautions),
    )


def in_use(d: Design, catalogue: Catalogue) -> dict[str, list[CatalogueDevice]]:
    """The rows of the catalogue that a design is made of, by table, each once.

    Parameters
    ----------
    d : a design
    catalogue : the one that it was computed with
    """
    rows: dict[str, list[CatalogueDevice]] = {}
    for type in dict.fromkeys(device.selected.type for device in d.devices if device.selected.type):
        if type in catalogue.by_type:
            table, row = catalogue.by_type[type]
            rows.setdefault(table, []).append(row)
    return rows


def supply_result(plate: Plate, prospective: Figure | None) -> SupplyResult:
    """The supply as files and screens show it."""
    s = plate.supply
    earthing = s.earthings[0] if len(s.earthings) == 1 else ""
    ka = prospective.number if prospective else None
    return SupplyResult(plate.line_voltage_v, plate.frequency_hz, ka, s.conductors, s.reason, s.taken, earthing)


def control_result(plate: Plate) -> ControlResult:
    """The control source as files and screens show it."""
    c = plate.control
    return ControlResult(c.kind, c.reason, c.words, c.feeds, tuple(r.name for r in c.rails), c.alive_with_main_off)
