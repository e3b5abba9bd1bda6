"""For who administers: people, addresses of meters, and the list of changes."""

import csv
import io
from datetime import datetime

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from volmek.core.document.errors import Problem, ProblemError
from volmek.files.cells import safe_cell
from volmek.store.meters import allow, allowed_hosts
from volmek.store.models import MeterAddress, Person
from volmek.store.people import (
    AuditLine,
    add_person,
    all_changes,
    changes,
    end_sign_ins,
    people,
    set_password,
    set_role,
    take_off,
)
from volmek.store.roles import SAYS, Role
from volmek.web.access import access, signed_in
from volmek.web.common import CSV, NOT_FOUND, REFUSED, audited, download, found, new_session, operation_id, writing
from volmek.web.schemas import Output

bp = APIBlueprint("people", __name__, url_prefix="/api", operation_id_callback=operation_id)
LINES = 200


class PersonOut(Output):
    """Somebody who may sign in."""

    id: int
    name: str
    role: Role
    created: datetime


class RoleOut(Output):
    """A role in words."""

    role: Role
    words: str


class PeopleOut(Output):
    """Everybody who may sign in, and the roles there are."""

    people: list[PersonOut]
    roles: list[RoleOut]


class PersonIn(BaseModel):
    """Somebody new."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=80)
    role: Role
    password: str = Field(min_length=1, max_length=200)


class PersonChange(BaseModel):
    """Another role or password, or the end of every sign-in."""

    model_config = ConfigDict(extra="forbid")

    role: Role | None = None
    password: str = Field(default="", max_length=200)
    sign_out: bool = False


class PersonPath(BaseModel):
    """A person's number in the address."""

    person_id: int


class MeterAddressOut(Output):
    """An address at which meters may be read."""

    id: int
    host: str
    allowed_by: str
    allowed: datetime


class MeterAddressesOut(Output):
    """Every address at which meters may be read."""

    addresses: list[MeterAddressOut]


class MeterAddressIn(BaseModel):
    """A host, an address or a network."""

    model_config = ConfigDict(extra="forbid")

    host: str = Field(min_length=1, max_length=120)


class MeterAddressPath(BaseModel):
    """An address's number in the address."""

    address_id: int


class ChangesQuery(BaseModel):
    """Lines before this one; the newest where none is said."""

    before: int | None = Field(default=None, ge=1)


class ChangesOut(Output):
    """Lines of the list of changes, the newest first; ``more`` where there are older ones."""

    changes: list[AuditLine]
    more: bool


@bp.before_request
def _workshop_only() -> None:
    if not access().workshop:
        raise ProblemError([Problem("request", "one person works here alone: nobody signs in")])


def _person_out(p: Person) -> PersonOut:
    return PersonOut(id=p.id, name=p.name, role=p.role, created=p.created)


def _out() -> PeopleOut:
    with new_session() as session:
        rows = [_person_out(p) for p in people(session)]
    return PeopleOut(people=rows, roles=[RoleOut(role=r, words=w) for r, w in SAYS.items()])


@bp.get("/people", responses={200: PeopleOut, **REFUSED})
def list_people() -> PeopleOut:
    """Everybody who may sign in."""
    return _out()


@bp.post("/people", responses={201: PeopleOut, **REFUSED})
def add_somebody(body: PersonIn) -> tuple[PeopleOut, int]:
    """Let somebody sign in."""
    with writing(f"{body.name}: {body.role}") as session:
        add_person(session, body.name, body.role, body.password)
    return _out(), 201


@bp.put("/people/<int:person_id>", responses={200: PeopleOut, **REFUSED})
def change_person(path: PersonPath, body: PersonChange) -> PeopleOut:
    """Give somebody another role or password, or sign them out everywhere."""
    with writing() as session:
        person = _active(found(session, Person, path.person_id))
        said = [f"{person.name}:"]
        if body.role is not None and body.role != person.role:
            set_role(session, person, body.role)
            said.append(body.role)
        if body.password:
            set_password(session, person, body.password)
            said.append("password")
        if body.sign_out:
            end_sign_ins(session, person)
            said.append("signed out everywhere")
        audited(" ".join(said))
    return _out()


@bp.delete("/people/<int:person_id>", responses={200: PeopleOut, **REFUSED})
def remove_person(path: PersonPath) -> PeopleOut:
    """Let somebody sign in no more; entries keep the name."""
    with writing() as session:
        person = _active(found(session, Person, path.person_id))
        take_off(session, person)
        audited(person.name)
    return _out()


def _active(person: Person) -> Person:
    if not person.active:
        raise LookupError(f"{person.name} may sign in no more")
    return person


def _addresses() -> MeterAddressesOut:
    with new_session() as session:
        return MeterAddressesOut(addresses=[MeterAddressOut(id=a.id, host=a.host, allowed_by=a.allowed_by, allowed=a.allowed) for a in allowed_hosts(session)])  # fmt: skip


@bp.get("/meter-addresses", responses={200: MeterAddressesOut, **REFUSED})
def list_meter_addresses() -> MeterAddressesOut:
    """Addresses at which meters may be read."""
    return _addresses()


@bp.post("/meter-addresses", responses={201: MeterAddressesOut, **REFUSED})
def allow_meter_address(body: MeterAddressIn) -> tuple[MeterAddressesOut, int]:
    """Allow meters at an address, a network or a host."""
    user = signed_in()
    with writing(body.host) as session:
        allow(session, body.host, user.name if user else "")
    return _addresses(), 201


@bp.delete("/meter-addresses/<int:address_id>", responses={200: MeterAddressesOut, **REFUSED})
def forbid_meter_address(path: MeterAddressPath) -> MeterAddressesOut:
    """Allow meters at an address no more."""
    with writing() as session:
        row = found(session, MeterAddress, path.address_id)
        audited(row.host)
        session.delete(row)
    return _addresses()


@bp.get("/changes", responses={200: ChangesOut, **REFUSED})
def list_changes(query: ChangesQuery) -> ChangesOut:
    """Who changed what, the newest first."""
    with new_session() as session:
        lines = changes(session, query.before, LINES + 1)
    return ChangesOut(changes=lines[:LINES], more=len(lines) > LINES)


@bp.get("/changes.csv", responses={200: CSV, **NOT_FOUND})
def changes_file() -> Response:
    """The whole list of changes as CSV, the oldest first."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["number", "time_utc", "who", "role", "operation", "subject", "address"])
    with new_session() as session:
        for c in all_changes(session):
            table.writerow([c.id, f"{c.at:%Y-%m-%d %H:%M:%S}", *map(safe_cell, (c.who, c.role, c.operation, c.subject, c.address))])  # fmt: skip
    return download(out.getvalue().encode("utf-8-sig"), "volmek-changes.csv", "text/csv")
