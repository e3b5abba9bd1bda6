"""JSON API: the circuit of a starter, operated, proved, broken and compared."""

import json
from collections.abc import Iterator
from typing import Literal

from flask import Response, request, stream_with_context
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from volmek.core.circuit.build.difference import Difference, difference
from volmek.core.circuit.faults.failures import Failure, failures
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.faults.mistakes import Mistake, mistakes
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.snapshot import LATEST_S, Snapshot
from volmek.core.circuit.kernel.timeline import AHEAD_S, Operation, Timeline, play
from volmek.core.circuit.proof.certificate import certificate_of
from volmek.core.circuit.proof.rules import Proof, decided, prove, to_decide
from volmek.core.circuit.proof.story import timed
from volmek.core.circuit.simulated import simulated
from volmek.core.document.model import StarterDocument, StarterType, by_method, parse
from volmek.core.views.change import ChangeView, change_view
from volmek.core.views.circuit import CircuitView, circuit_view
from volmek.web.common import REFUSED, download, looked_at, operation_id
from volmek.web.results import table_of
from volmek.web.schemas import Output, StarterPath
from volmek.web.work import working

#: Answers line by line.
LINES = "application/x-ndjson"
bp = APIBlueprint("circuits", __name__, url_prefix="/api", operation_id_callback=operation_id)


class StyleQuery(BaseModel):
    """House style of the drawings; that of the practice where none is asked for."""

    style: Literal["columns", "ladder"] | None = None


class CircuitOut(Output):
    """A circuit before it is operated."""

    sheet: CircuitView


class OperationIn(BaseModel):
    """An operation at a time from the beginning."""

    model_config = ConfigDict(extra="forbid")

    at_s: float = Field(ge=0, le=LATEST_S)
    do: str = Field(min_length=1, max_length=60)


class PlayIn(BaseModel):
    """Operations on a circuit, and the faults inserted; from the beginning, or from the snapshot of an earlier answer."""

    model_config = ConfigDict(extra="forbid")

    operations: list[OperationIn] = Field(default=[], max_length=500)
    faults: list[str] = Field(default=[], max_length=20)
    until_s: float | None = Field(default=None, ge=0, le=LATEST_S + AHEAD_S)
    snapshot: Snapshot | None = None


class PlayOut(Output):
    """Course of the simulation, and the mistakes that the faults amount to."""

    timeline: Timeline
    mistakes: list[Mistake]


class FaultsQuery(BaseModel):
    """Faults inserted before proving."""

    fault: list[str] = Field(default=[], max_length=20)


class ProofsOut(Output):
    """Rules, held or broken, and stories with times for those that are broken."""

    proofs: list[Proof]
    stories: dict[str, list[Operation]]


class CertificateOut(BaseModel):
    """Netlist, behaviour, set of states and verdicts; ``volmek verify`` checks it."""

    model_config = ConfigDict(extra="allow")

    certificate: str
    version: int
    tag: str
    digest: str


class FailuresOut(Output):
    """The single-failure table."""

    failures: list[Failure]


class ChangeQuery(BaseModel):
    """Change of the starter: another method, a monitor, lamps."""

    type: StarterType | None = None
    phase_monitor: Literal["none", "three_wire", "four_wire"] | None = None
    lamps: list[Literal["running", "stopped", "tripped", "phase_healthy", "phase_fault"]] | None = None


class ChangeIn(BaseModel):
    """The starter as it was."""

    model_config = ConfigDict(extra="forbid")

    before: StarterDocument


class ChangeOut(Output):
    """Effect of a change at the panel."""

    change: ChangeView


class DifferenceOut(Output):
    """Work to be done at the panel."""

    difference: Difference


@bp.get("/starters/<int:starter_id>/circuit", responses={200: CircuitOut, **REFUSED})
def get_circuit(path: StarterPath, query: StyleQuery) -> CircuitOut:
    """Power and control circuit: drawings, lamps, contacts, wires."""
    document, catalogue, _ = looked_at(path.starter_id)
    return CircuitOut.model_construct(sheet=circuit_view(document, catalogue, query.style))


@bp.post("/starters/<int:starter_id>/circuit/play", responses={200: PlayOut, **REFUSED})
def play_circuit(path: StarterPath, body: PlayIn) -> PlayOut:
    """Operate the circuit and look ahead until it is quiet."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    it = simulated(document, catalogue, body.faults)
    found = mistakes(it.circuit, damage(it.circuit, body.faults)) if body.faults else []
    timeline = play(it.simulator, [Operation(o.at_s, o.do) for o in body.operations], body.until_s, body.snapshot)
    return PlayOut.model_construct(timeline=timeline, mistakes=found)


@bp.get("/starters/<int:starter_id>/circuit/proofs", responses={200: ProofsOut, **REFUSED})
def prove_circuit(path: StarterPath, query: FaultsQuery) -> ProofsOut | Response:
    """Every rule over every state, of the circuit as designed or with faults; as lines of JSON, each rule as soon as it is decided, where those are accepted."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    simulator = simulated(document, catalogue, query.fault).simulator
    if request.accept_mimetypes.best == LINES:
        return Response(stream_with_context(_as_they_come(simulator, document.own_rules)), mimetype=LINES)
    found = prove(simulator.circuit, simulator.engine, own=document.own_rules, sim=simulator)
    stories = {p.rule: timed(simulator, p) for p in found if p.holds is False}
    return ProofsOut.model_construct(proofs=found, stories=stories)


def _as_they_come(simulator: Simulator, own: list[str]) -> Iterator[str]:
    """First the rules that there are, then each that is decided; who goes away ends it at the next."""
    c, e = simulator.circuit, simulator.engine
    yield ProofsOut.model_construct(proofs=to_decide(c, e, own), stories={}).model_dump_json() + "\n"
    for p in decided(c, e, own=own, sim=simulator):
        stories = {p.rule: timed(simulator, p)} if p.holds is False else {}
        yield ProofsOut.model_construct(proofs=[p], stories=stories).model_dump_json() + "\n"


@bp.get("/starters/<int:starter_id>/circuit/certificate.json", responses={200: CertificateOut, **REFUSED})
def circuit_certificate(path: StarterPath) -> Response:
    """The proofs of the circuit as designed, as a file that volmek verify checks."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    made = certificate_of(document.tag, simulated(document, catalogue).simulator, document.own_rules)
    return download(json.dumps(made, indent=1).encode(), f"{document.tag}-proof.json", "application/json")


@bp.get("/starters/<int:starter_id>/circuit/failures", responses={200: FailuresOut, **REFUSED})
def circuit_failures(path: StarterPath) -> FailuresOut:
    """Effect of each single fault."""
    document, catalogue, kept = looked_at(path.starter_id)
    told = working().counted("putting in fault")
    found = table_of(kept, lambda: failures(simulated(document, catalogue).circuit, told))
    return FailuresOut.model_construct(failures=found)


@bp.get("/starters/<int:starter_id>/circuit/difference", responses={200: DifferenceOut, **REFUSED})
def circuit_difference(path: StarterPath, query: ChangeQuery) -> DifferenceOut:
    """From this starter to a changed one: wires and parts."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    data = (by_method(document, query.type) if query.type else document).to_json()
    if query.phase_monitor:
        data.setdefault("control", {})["phase_monitor"] = query.phase_monitor
    if query.lamps is not None:
        data.setdefault("control", {})["lamps"] = query.lamps
    before, after = simulated(document, catalogue), simulated(parse(data), catalogue)
    sized = tuple(it.sized.design.devices if it.sized else [] for it in (before, after))
    return DifferenceOut.model_construct(difference=difference(before.circuit, after.circuit, (sized[0], sized[1])))


@bp.post("/starters/<int:starter_id>/circuit/change", responses={200: ChangeOut, **REFUSED})
def circuit_change(path: StarterPath, body: ChangeIn) -> ChangeOut:
    """From this starter as it was to the starter as it is now: what has to be done at the panel, with the drawing."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    return ChangeOut.model_construct(change=change_view(body.before, document, catalogue))
