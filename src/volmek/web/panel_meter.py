"""The panel meter of a starter: its settings, a reading, and the simulated one."""

from typing import TYPE_CHECKING

from flask import current_app
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.orm import Session

from volmek.core.circuit.simulated import simulated
from volmek.core.document.errors import Problem, ProblemError
from volmek.meters.registers import MeterSettings, Readout, stand_in_map
from volmek.store.meters import allowed_address, allowed_hosts
from volmek.store.records import meter_of, set_meter
from volmek.store.repository import read_starter
from volmek.web.access import access
from volmek.web.common import REFUSED, new_session, operation_id, writing
from volmek.web.record_views import Looked
from volmek.web.schemas import Output, StarterPath
from volmek.web.work import working

if TYPE_CHECKING:
    from volmek.standin.meter import MeterServer

bp = APIBlueprint("panel_meter", __name__, url_prefix="/api", operation_id_callback=operation_id)


class MeterOut(BaseModel):
    """The meter's settings, and whether the stand-in runs for this starter."""

    settings: MeterSettings
    stand_in_port: int | None


class ReadIn(BaseModel):
    """Quantities to be read; all of the map when none are named."""

    model_config = ConfigDict(extra="forbid")

    quantities: list[str] = Field(default=[], max_length=60)


class ReadOut(Output):
    """Readings of the meter."""

    readout: Readout


class StandInIn(BaseModel):
    """Start the stand-in with faults, or operate the one that runs."""

    model_config = ConfigDict(extra="forbid")

    faults: list[str] = Field(default=[], max_length=20)
    operations: list[str] = Field(default=[], max_length=50)
    advance_s: float = Field(default=0, ge=0, le=600)


def _stand_ins() -> "dict[int, MeterServer]":
    servers: dict[int, MeterServer] = current_app.extensions.setdefault("stand_ins", {})
    return servers


def _meter_out(session: Session, starter_id: int) -> MeterOut:
    kept = meter_of(session, starter_id)
    settings = MeterSettings.model_validate(kept) if kept else MeterSettings(registers=stand_in_map())
    server = _stand_ins().get(starter_id)
    return MeterOut(settings=settings, stand_in_port=server.port if server else None)


def _own_stand_in(starter_id: int, settings: MeterSettings) -> bool:
    """The settings point at the simulated meter of this starter, which the server itself has started."""
    server = _stand_ins().get(starter_id)
    return server is not None and (settings.host, settings.port) == ("127.0.0.1", server.port)


@bp.get("/starters/<int:starter_id>/meter", responses={200: MeterOut, **REFUSED})
def get_meter(path: StarterPath) -> MeterOut:
    """Where the panel meter is, and its register map."""
    with new_session() as session:
        read_starter(session, path.starter_id)
        return _meter_out(session, path.starter_id)


@bp.put("/starters/<int:starter_id>/meter", responses={200: MeterOut, **REFUSED})
def set_meter_settings(path: StarterPath, body: MeterSettings) -> MeterOut:
    """Keep the meter's settings."""
    with writing() as session:
        read_starter(session, path.starter_id)
        set_meter(session, path.starter_id, body.model_dump(mode="json"))
        return _meter_out(session, path.starter_id)


@bp.post("/starters/<int:starter_id>/meter/read", responses={200: ReadOut, **REFUSED})
def read_panel_meter(path: StarterPath, body: ReadIn) -> ReadOut:
    """Read the meter once."""
    with new_session() as session:
        read_starter(session, path.starter_id)
        settings = _meter_out(session, path.starter_id).settings
        if access().workshop and not _own_stand_in(path.starter_id, settings):
            address, why = allowed_address(settings.host, [a.host for a in allowed_hosts(session)])
            if why:
                return ReadOut(
                    readout=Readout({}, why, tuple(body.quantities or (r.quantity for r in settings.registers)))
                )
            settings = settings.model_copy(update={"host": address})
    from volmek.meters.client import read_meter  # here, since a server starts without Modbus

    return ReadOut.model_construct(readout=read_meter(settings, body.quantities))


@bp.post("/starters/<int:starter_id>/meter/stand-in", responses={200: MeterOut, **REFUSED})
def run_stand_in(path: StarterPath, body: StandInIn) -> MeterOut:
    """Start the simulated meter of this starter and point the settings at it, or operate the one that runs."""
    if access().processes > 1:
        words = f"the simulated meter runs in one process, and {access().processes} serve here: start `volmek meter` and set its address"
        raise ProblemError([Problem("request", words)])
    with new_session() as session:
        looked = Looked(session, path.starter_id)
    servers = _stand_ins()
    if path.starter_id not in servers or body.faults:
        it = simulated(looked.document, looked.catalogue, body.faults)
        if path.starter_id in servers:
            servers.pop(path.starter_id).stop()
        from volmek.standin.meter import MeterServer, panel_meter

        servers[path.starter_id] = MeterServer(panel_meter(looked.document, it)).start()
        settings = MeterSettings(port=servers[path.starter_id].port, registers=stand_in_map())
        with writing() as session:
            read_starter(session, path.starter_id)
            set_meter(session, path.starter_id, settings.model_dump(mode="json"))
    server, work = servers[path.starter_id], working()
    for operation in body.operations:
        server.operate(operation)
        server.advance(0.3)
    left = body.advance_s
    while left > 0:  # in steps, so that it says how far it is and can be cancelled
        work.step("running the simulated starter", round(body.advance_s - left), round(body.advance_s))
        server.advance(min(left, 5.0))
        left -= 5.0
    with new_session() as session:
        return _meter_out(session, path.starter_id)


@bp.delete("/starters/<int:starter_id>/meter/stand-in", responses={200: MeterOut, **REFUSED})
def end_stand_in(path: StarterPath) -> MeterOut:
    """Stop the simulated meter."""
    server = _stand_ins().pop(path.starter_id, None)
    if server is not None:
        server.stop()
    with new_session() as session:
        return _meter_out(session, path.starter_id)
