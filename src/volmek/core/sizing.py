"""The one entry of the core: a starter document in, the sized starter out."""

from dataclasses import dataclass
from functools import lru_cache

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.schemes import circuit_of
from volmek.core.context import Context
from volmek.core.design import Currents, Design, control_result, start_result, supply_result, worded
from volmek.core.devices.circuit_parts import circuit_parts
from volmek.core.devices.device import Device, override_marks, unused
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import StarterDocument, StarterType, method_of
from volmek.core.fitting import fitted_of
from volmek.core.lineup import line_up, links_of, overload_band
from volmek.core.methods import METHODS
from volmek.core.methods.build import Built, build_starter
from volmek.core.methods.wrong_choices import offered_choices, without_wrong_choices
from volmek.core.plate.plate import Plate
from volmek.core.results.beside import Beside
from volmek.core.results.figures import as_sentence
from volmek.core.results.findings import ORDER
from volmek.core.warnings_of import add_findings

#: Sizings that are kept for whoever asks next.
SIZED_KEPT = 32
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
class Sized:
    """A sized starter: everything that pages, papers, record and command line are projections of, computed once.

    Attributes
    ----------
    document, catalogue : what it was computed from; choices that leave nothing to compute with are replaced by the usual ones
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
    ProblemError : values that the method needs are missing, or an override names no device of a starter.

    Examples
    --------
    >>> from volmek.core.catalogue.catalogue import reference_catalogue
    >>> from volmek.core.document.model import parse
    >>> s = size(parse({"tag": "A", "motor": {"rated_power_kw": 7.5, "rated_voltage_delta_v": 400,
    ...     "rated_current_delta_a": 14.4}, "supply": {"line_voltage_v": 400}}), reference_catalogue())
    >>> s.design.devices[0].settings.dial_a
    14.4
    """
    return _sized(method_of(document), document.model_dump_json(), catalogue, Beside(document))


@lru_cache(maxsize=SIZED_KEPT)
def _sized(name: StarterType, key: str, catalogue: Catalogue, asked: Beside[StarterDocument]) -> Sized:
    """Every page of a starter asks for the same sizing: the last ones are kept, by method, document and catalogue."""
    del key, name
    document, wrong = without_wrong_choices(asked.value)
    method = METHODS[method_of(document)]
    if missing := [p for p in method.refuses(document) if p.missing]:
        raise ProblemError(missing)
    c, plate, built = build_starter(document, catalogue, method)
    for problem in wrong:
        c.find("stop", "wrong_choice", as_sentence(problem.message), problem.field)
    _check_overrides(c, built.devices)
    circuit = _circuit(c, built)
    devices = [*built.devices, *(circuit_parts(c, circuit, built.devices) if circuit else [])]
    add_findings(c, plate, built, circuit)
    return Sized(document, catalogue, c, plate, built, circuit, worded(_design(c, plate, built, devices)))


def _circuit(c: Context, built: Built) -> Circuit | None:
    """Its circuit; options that contradict each other are findings at their fields, and nothing is drawn."""
    try:
        return circuit_of(c.document, fitted_of(c.document, built))
    except ProblemError as error:
        for problem in error.problems:
            c.find("stop", "options_contradict", as_sentence(problem.message), problem.field)
        return None


def _design(c: Context, plate: Plate, built: Built, devices: list[Device]) -> Design:
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
            built.starting_a,
            plate.permitted.number,
            {x.name: x.reason for x in plate.design.candidates},
        ),
        supply=supply_result(plate, prospective),
        control=control_result(plate),
        devices=devices,
        start=start_result(built.start),
        findings=findings,
        figures=figures,
        line_up=line_up(document, plate, devices, findings, figures),
        links=links_of(document),
        overload_band=overload_band(devices, figures),
        coordination=built.coordination,
        offered=offered_choices(document),
    )


def _check_overrides(c: Context, devices: list[Device]) -> None:
    """Every override must be of a known role; one without effect here is a finding."""
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
