"""Signing in and out, pairing a tablet, and a second person for one entry."""

from datetime import datetime

import segno
from flask import current_app, request
from flask_openapi3.blueprint import APIBlueprint
from itsdangerous import BadData, URLSafeTimedSerializer
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.orm import Session
from werkzeug.exceptions import TooManyRequests

from volmek.core.document.errors import Problem, ProblemError
from volmek.store.models import Person
from volmek.store.people import (
    check_password,
    end_sign_ins,
    failed,
    fits,
    must_wait,
    pair,
    paired,
    rehash,
    set_password,
    succeeded,
)
from volmek.store.roles import Role
from volmek.web.access import access, login, logout, signed_in
from volmek.web.common import REFUSED, new_session, operation_id, writing
from volmek.web.schemas import Output

bp = APIBlueprint("sign_in", __name__, url_prefix="/api", operation_id_callback=operation_id)
#: How long a second person's sign-in for one entry holds; an entry that waited longer is signed again.
SECOND_S = 15 * 60


class MeOut(Output):
    """How the application is reached, and who has signed in.

    Attributes
    ----------
    workshop : people sign in here; else one person works alone, and a name is as typed
    name, role : of who has signed in; empty for nobody
    encrypted : passwords and records cross the network encrypted
    """

    workshop: bool
    name: str
    role: Role | None
    encrypted: bool


class SignIn(BaseModel):
    """Name and password."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=80)
    password: str = Field(min_length=1, max_length=200)


class NewPassword(BaseModel):
    """A password of one's own, and the one before."""

    model_config = ConfigDict(extra="forbid")

    old: str = Field(min_length=1, max_length=200)
    new: str = Field(min_length=1, max_length=200)


class PairingOut(Output):
    """A code for a tablet: its address, the same as a picture, and when it expires."""

    address: str
    picture: str
    expires: datetime


class PairingIn(BaseModel):
    """The code that a tablet has read."""

    model_config = ConfigDict(extra="forbid")

    code: str = Field(min_length=1, max_length=100)


class SecondOut(Output):
    """A second person's sign-in for entries, by name."""

    name: str
    second: str


def _me(person: Person | None = None) -> MeOut:
    how, user = access(), person or signed_in()
    return MeOut(workshop=how.workshop, name=user.name if user else "", role=user.role if user else None, encrypted=how.tls)  # fmt: skip


def _only_workshop() -> None:
    if not access().workshop:
        raise ProblemError([Problem("request", "one person works here alone: there is no sign-in")])


def _who(name: str, password: str) -> Person:
    """Somebody by name and password; each failure makes the next try wait.

    Raises
    ------
    TooManyRequests : too many failures before this.
    ProblemError : name or password are wrong; which, is not said.
    """
    address = request.remote_addr or ""
    with new_session(write=True) as session, session.begin():
        wait = must_wait(session, name, address)
        if wait.total_seconds() > 0:
            raise TooManyRequests(f"too many failed sign-ins: try again in {wait.total_seconds():.0f} s", retry_after=int(wait.total_seconds()) + 1)  # fmt: skip
        failed(session, name, address)  # counted before it is looked at: many tries at once are many
    with new_session() as session:
        person = check_password(session, name, password)
    if person is None:
        raise ProblemError([Problem("password", "name or password are wrong")])
    with new_session(write=True) as session, session.begin():
        succeeded(session, name, address)
        rehash(session, person, password)
    return person


@bp.get("/me", responses={200: MeOut})
def get_me() -> MeOut:
    """How the application is reached, and who has signed in."""
    return _me()


@bp.post("/sign-in", responses={200: MeOut, **REFUSED})
def sign_in(body: SignIn) -> MeOut:
    """Sign in on this device."""
    _only_workshop()
    person = _who(body.name, body.password)
    login(person)
    return _me(person)


@bp.delete("/sign-in", responses={200: MeOut})
def sign_out() -> MeOut:
    """Sign out on this device."""
    if access().workshop:
        logout()
    return MeOut(workshop=access().workshop, name="", role=None, encrypted=access().tls)


def _self(session: Session) -> Person:
    _only_workshop()
    user = signed_in()
    person = session.get(Person, user.person_id) if user else None
    if person is None:
        raise LookupError("nobody has signed in")
    return person


@bp.post("/sign-in/everywhere", responses={200: MeOut, **REFUSED})
def sign_out_everywhere() -> MeOut:
    """End the sign-ins of who asks on every other device."""
    with writing() as session:
        person = _self(session)
        end_sign_ins(session, person)
    login(person)
    return _me(person)


@bp.put("/sign-in/password", responses={200: MeOut, **REFUSED})
def change_password(body: NewPassword) -> MeOut:
    """Give oneself another password; every other device is signed out."""
    with new_session() as session:
        before = _self(session)
    if not fits(body.old, before.password):
        raise ProblemError([Problem("old", "is not your password")])
    with writing() as session:
        person = _self(session)
        set_password(session, person, body.new)
    login(person)
    return _me(person)


@bp.post("/pairing", responses={201: PairingOut, **REFUSED})
def pair_tablet() -> tuple[PairingOut, int]:
    """A code that signs a tablet in as who asks: once, within five minutes."""
    with writing() as session:
        code, expires = pair(session, _self(session))
    address = f"{access().at or request.host_url.rstrip('/')}/pair#{code}"
    picture = segno.make(address, error="m").svg_data_uri(scale=6, border=3, dark="#000", light="#fff")
    return PairingOut(address=address, picture=picture, expires=expires), 201


@bp.post("/pairing/use", responses={200: MeOut, **REFUSED})
def use_pairing(body: PairingIn) -> MeOut:
    """Sign in on this device with a code."""
    _only_workshop()
    with new_session(write=True) as session, session.begin():
        person = paired(session, body.code)
    login(person)
    return _me(person)


def _signer() -> URLSafeTimedSerializer:
    return URLSafeTimedSerializer(str(current_app.secret_key), salt="second person")


@bp.post("/sign-in/second", responses={200: SecondOut, **REFUSED})
def second_person(body: SignIn) -> SecondOut:
    """Sign a second person in for entries that are theirs, such as a signature; the device stays with who works at it."""
    _only_workshop()
    person = _who(body.name, body.password)
    return SecondOut(name=person.name, second=_signer().dumps([person.id, person.epoch]))


def second_of(session: Session, second: str) -> Person | None:
    """The second person whom an entry carries, None where it carries none.

    Raises
    ------
    ProblemError : the sign-in is not one of this server, or too old.
    """
    if not second:
        return None
    again = ProblemError([Problem("second", "the second person's sign-in has expired: sign again")])
    if not access().workshop:
        raise ProblemError([Problem("second", "one person works here alone: there is no sign-in")])
    try:
        id, epoch = _signer().loads(second, max_age=SECOND_S)
    except (BadData, ValueError, TypeError):
        raise again from None
    person = session.get(Person, id)
    if person is None or not person.active or person.epoch != epoch:
        raise again
    return person
