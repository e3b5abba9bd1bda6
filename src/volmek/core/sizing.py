"""The one entry of the core: a starter document in, the sized starter out."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, TypeVar

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.catalogue.device_types import Device as CatalogueDevice
from volmek.core.circuit.kernel.simulate import MonitorSet
from volmek.core.circuit.model.fitted import Fitted
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.schemes import circuit_of
from volmek.core.context import Context
from volmek.core.coordination.coordination import Coordination
from volmek.core.devices.circuit_parts import circuit_parts
from volmek.core.devices.device import Device, override_marks, unused
from volmek.core.devices.settings import Settings, known
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import StarterDocument, method_of
from volmek.core.installation.control import control_source
from volmek.core.lineup import LineUpItem, line_up, links_of, overload_band
from volmek.core.methods import METHODS
from volmek.core.methods.build import Built, build
from volmek.core.plate.plate import Plate
from volmek.core.plate.reading import read_plate
from volmek.core.results.drawing import Drawing
from volmek.core.results.figures import Figure
from volmek.core.results.findings import ORDER, Finding, Severity
from volmek.core.standards.cautions import SETTINGS
from volmek.core.start.start import Start
from volmek.core.warnings_of import add_findings

T = TypeVar("T")

#: Roles whose device or setting a user may choose against the computed one.
OVERRIDABLE = tuple(
    dict.fromkeys(
        [
            "short_circuit_device",
            "overload_relay",
            "phase_monitor",
            "control_transformer",
            "control_breaker",
            "primary_breaker",
            *(role for method in METHODS.values() for role in method.roles),
        ]
    )
)


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
    """What the supply came to.

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
    """What the control supply came to.

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
    """What is known of the start; times and currents of the run-up only where one could be computed.

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
    """Everything computed about one starter.

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
            "currents": _known(asdict(self.currents)),
            "supply": _known(asdict(self.supply)),
            "control": asdict(self.control),
            "devices": [self._device(d, working) for d in self.devices],
            "start": _known(asdict(self.start)),
            "coordination": _known(asdict(self.coordination)),
            "findings": [asdict(f) for f in self.findings],
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
        if d.override_reason:
            data["override"] = {"values": list(d.overridden), "reason": d.override_reason}
        if working:
            data["figures"] = [f.id for f in d.figures]
            data["candidates"] = [asdict(x) for x in d.choice.candidates]
        return data


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


def control_result(document: StarterDocument, plate: Plate) -> ControlResult:
    """The control source as files and screens show it."""
    c = control_source(document, plate.supply)
    return ControlResult(c.kind, c.reason, c.words, c.feeds, tuple(r.name for r in c.rails), c.alive_with_main_off)


def _known(data: dict[str, Any]) -> dict[str, Any]:
    return {k: v for k, v in data.items() if v is not None}


@dataclass(frozen=True, slots=True)
class Sized:
    """A sized starter: everything that pages, papers, record and command line are projections of, computed once.

    Attributes
    ----------
    document, catalogue : what it was computed from
    context : figures and findings with their workings
    plate : plate and supply
    built : kind of the short-circuit device, devices of the method, coordination, start, network
    circuit : netlist of its circuit; None while the options of the circuit contradict each other
    design : the results as plain data
    """

    document: StarterDocument
    catalogue: Catalogue
    context: Context
    plate: Plate
    built: Built
    circuit: Circuit | None
    design: Design


def size(document: StarterDocument, catalogue: Catalogue) -> Sized:
    """Compute everything that follows from what a user decided: the one entry of the core, a pure function.

    Parameters
    ----------
    document : the user's decisions
    catalogue : the devices to choose from

    Raises
    ------
    PlateError : the plate or the supply is impossible, contradictory or incomplete.
    NoDeviceError : the catalogue has no device that fits.
    ProblemError : the starting method is impossible for this motor, or an override names no device of a starter.

    Examples
    --------
    >>> from volmek.core.catalogue.catalogue import reference_catalogue
    >>> from volmek.core.document.model import parse
    >>> s = size(parse({"tag": "A", "motor": {"rated_power_kw": 7.5, "rated_voltage_delta_v": 400,
    ...     "rated_current_delta_a": 14.4}, "supply": {"line_voltage_v": 400}}), reference_catalogue())
    >>> s.design.devices[0].settings.dial_a
    14.4
    """
    method = METHODS[method_of(document)]
    if problems := method.refuses(document):
        raise ProblemError(problems)
    c = Context(document, catalogue)
    plate = read_plate(c)
    line_share = method.line_current_share(document, plate.locked_rotor.number / plate.design.number)
    built = build(c, plate, method.layout(document), line_share)
    _check_overrides(c, built.devices)
    circuit = _circuit(document, built)
    devices = [*built.devices, *(circuit_parts(c, circuit, built.devices) if circuit else [])]
    add_findings(c, plate, built, circuit)
    return Sized(document, catalogue, c, plate, built, circuit, _design(c, plate, built, devices, line_share))


def _circuit(document: StarterDocument, built: Built) -> Circuit | None:
    try:
        return circuit_of(document, fitted_of(document, built))
    except ProblemError:
        return None


def _design(c: Context, plate: Plate, built: Built, devices: list[Device], line_share: float) -> Design:
    document, (figures, found) = c.document, c.log()
    nameplate, prospective = plate.nameplate, built.network.prospective if built.network else None
    findings = sorted(found, key=lambda f: ORDER[f.severity])
    locked = plate.locked_rotor.number
    return Design(
        tag=document.tag,
        service=document.service,
        practice=document.practice,
        method=METHODS[method_of(document)].label,
        connection=plate.connection,
        currents=Currents(
            plate.design.number,
            plate.design_source,
            nameplate.number if nameplate else None,
            plate.calculated.number if plate.calculated else None,
            plate.table.number if plate.table else None,
            locked,
            locked * line_share,
            plate.permitted.number,
            {x.name: x.reason for x in plate.design.candidates},
        ),
        supply=supply_result(plate, prospective),
        control=control_result(document, plate),
        devices=devices,
        start=start_result(built.start),
        findings=findings,
        figures=figures,
        line_up=line_up(document, plate, devices, findings, figures),
        links=links_of(document),
        overload_band=overload_band(devices, figures),
        coordination=built.coordination,
    )


def fitted_of(document: StarterDocument, built: Built | None) -> Fitted:
    """What the sized devices decide of the circuit; without a design what the document says of them."""
    times = times_of(document, built)
    if built is None:
        return Fitted(document.protection.device, times_s=times)
    kind = built.front
    relay = any(d.kind == "overload_relay" for d in built.devices)
    return Fitted(kind, relay=relay or kind != "motor_breaker", times_s=times)


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
    """What the device is set to, else what is typed, else the usual."""
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
            times["KT1"] = star.settings.star_time_s
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
        times["G1"] = start.result.run_up_time_s
    if document.control.rest_time_s:
        times["KT2"] = document.control.rest_time_s
    if document.control.standby:
        times |= {"KT2": 2.0, "KT3": 10.0, "KT4": 5.0}
    return times


def _check_overrides(c: Context, devices: list[Device]) -> None:
    """Every override must be of a role that exists in the trade; one without effect here is said so."""
    by_role = {d.role: d for d in devices}
    problems = []
    for i, o in enumerate(c.document.overrides):
        if o.role not in OVERRIDABLE:
            problems.append(Problem(f"overrides.{i}.role", f"{o.role!r} is not one of {', '.join(OVERRIDABLE)}"))
        elif c.document.override(o.role) is not o:
            problems.append(Problem(f"overrides.{i}.role", f"{o.role!r} is overridden twice"))
        elif not override_marks(o)[1]:
            problems.append(Problem(f"overrides.{i}", "gives a reason but changes nothing"))
        elif (device := by_role.get(o.role)) is None:
            unused(c, o.role, "", f"this starter has no {o.role.replace('_', ' ')}")
        else:
            fixed_trip = device.kind in ("motor_breaker", "magnetic_breaker")
            overload = o.role in ("overload_relay", "low_speed_overload_relay")
            for value, applies, what in (
                (o.dial_a, overload or device.kind == "motor_breaker", "overload dial"),
                (o.trip_class, overload, "choice of trip class"),
                (
                    o.instantaneous_trip_a,
                    device.settings.instantaneous_trip_a is not None and not fixed_trip,
                    "adjustable magnetic trip",
                ),
            ):
                if value is not None and not applies:
                    unused(c, o.role, device.designation, f"{device.designation} has no {what}")
    if problems:
        raise ProblemError(problems)
