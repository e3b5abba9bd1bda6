"""People who may sign in: names, roles, passwords, failed attempts, pairing codes, and what they changed."""

import hashlib
import secrets
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from volmek.core.document.errors import Problem, ProblemError
from volmek.store.models import Audit, Pairing, Person, SignInFailure, now
from volmek.store.roles import Role

SHORTEST, LONGEST = 10, 200
#: Failures that cost nothing; from then on each doubles the wait, up to the longest.
FREE, LONGEST_WAIT = 4, timedelta(minutes=15)
#: From one address several people may sign in, so that it may fail more often.
FREE_ADDRESS = 20
#: After so long without another one the failures are forgotten.
FORGOTTEN = timedelta(hours=24)
PAIRING = timedelta(minutes=5)

_hasher = PasswordHasher()
#: Each hash takes 64 MB: no more than two at once, however many sign in.
_at_once = threading.BoundedSemaphore(2)


def name_key(name: str) -> str:
    """What a name is known by: neither capitals nor spaces make another one.

    Examples
    --------
    >>> name_key("  E.  Sallow ") == name_key("e. sallow")
    True
    """
    return " ".join(name.split()).casefold()


def _checked_password(password: str) -> str:
    if len(password) < SHORTEST:
        raise ProblemError([Problem("password", f"must have at least {SHORTEST} characters")])
    if len(password) > LONGEST:
        raise ProblemError([Problem("password", f"must have at most {LONGEST} characters")])
    return hash_of(password)


def hash_of(password: str) -> str:
    """Argon2id of a password, with salt and cost in it (RFC 9106)."""
    with _at_once:
        return _hasher.hash(password)


@lru_cache(maxsize=1)
def _nobody() -> str:
    """What is compared with where there is no such name, so that it takes as long."""
    return hash_of(secrets.token_hex(16))


def fits(password: str, kept: str) -> bool:
    """A password is the one whose hash was kept."""
    try:
        with _at_once:
            return _hasher.verify(kept, password)
    except (VerificationError, InvalidHashError):
        return False


def add_person(session: Session, name: str, role: Role, password: str) -> Person:
    """Somebody new who may sign in.

    Parameters
    ----------
    name : as entries will carry it, 1 to 80 characters
    password : 10 to 200 characters

    Raises
    ------
    ProblemError : the name is empty or was ever somebody's, or the password is too short or too long.
    """
    name = " ".join(name.split())
    if not 0 < len(name) <= 80 or not name.isprintable():
        raise ProblemError([Problem("name", "must have 1 to 80 characters")])
    if session.scalar(select(Person.id).where(Person.name_key == name_key(name))) is not None:
        raise ProblemError([Problem("name", f"{name} is on the list already, or was; entries carry that name: give another one")])  # fmt: skip
    person = Person(name=name, name_key=name_key(name), role=role, password=_checked_password(password))
    session.add(person)
    session.flush()
    return person


def person_of(session: Session, name: str) -> Person:
    """Somebody on the list by name.

    Raises
    ------
    LookupError : nobody of that name may sign in.
    """
    found = session.scalar(select(Person).where(Person.name_key == name_key(name), Person.active))
    if found is None:
        raise LookupError(f"nobody called {name!r} may sign in")
    return found


def people(session: Session) -> list[Person]:
    """Everybody who may sign in, by name."""
    return list(session.scalars(select(Person).where(Person.active).order_by(Person.name_key)))


def _others_administer(session: Session, person: Person) -> None:
    query = select(func.count(Person.id)).where(Person.active, Person.role == "administers", Person.id != person.id)
    if person.role == "administers" and not session.scalar(query):
        raise ProblemError([Problem("role", f"{person.name} is the last one who administers: make somebody else one first")])  # fmt: skip


def set_role(session: Session, person: Person, role: Role) -> None:
    """Give somebody another role; it holds from their next request on.

    Raises
    ------
    ProblemError : nobody would administer.
    """
    if role != "administers":
        _others_administer(session, person)
    person.role = role
    session.flush()


def set_password(session: Session, person: Person, password: str) -> None:
    """Give somebody another password, and end every sign-in made with the old one."""
    person.password = _checked_password(password)
    end_sign_ins(session, person)


def end_sign_ins(session: Session, person: Person) -> None:
    """End every sign-in of somebody, on every device."""
    person.epoch += 1
    session.flush()


def take_off(session: Session, person: Person) -> None:
    """Let somebody sign in no more; the name stays theirs.

    Raises
    ------
    ProblemError : nobody would administer.
    """
    _others_administer(session, person)
    person.active = False
    end_sign_ins(session, person)


def _subjects(name: str, address: str) -> list[tuple[str, int]]:
    """Name and address under which failures are counted, each with how many are free."""
    of_name = hashlib.sha256(name_key(name).encode("utf-8", "replace")).hexdigest()
    return [(f"name {of_name}", FREE), *([(f"address {address[:100]}", FREE_ADDRESS)] if address else [])]


def wait_after(failures: int, free: int = FREE) -> timedelta:
    """How long nobody may try again after so many failures.

    Examples
    --------
    >>> [wait_after(n).seconds for n in (4, 5, 6, 10, 40)]
    [0, 2, 4, 64, 900]
    """
    over = failures - free
    return timedelta() if over <= 0 else min(LONGEST_WAIT, timedelta(seconds=2 ** min(over, 20)))


def must_wait(session: Session, name: str, address: str, at: datetime | None = None) -> timedelta:
    """How long a sign-in must wait still, for the failures before it; counted in the database, for every process."""
    at, longest = at or now(), timedelta()
    for subject, free in _subjects(name, address):
        row = session.get(SignInFailure, subject)
        if row is not None and at - row.last < FORGOTTEN:
            longest = max(longest, row.last + wait_after(row.failures, free) - at)
    return longest


def failed(session: Session, name: str, address: str, at: datetime | None = None) -> None:
    """Count a failed sign-in. The caller holds the write lock."""
    at = at or now()
    for subject, _ in _subjects(name, address):
        row = session.get(SignInFailure, subject)
        if row is None:
            session.add(SignInFailure(subject=subject, failures=1, last=at))
        else:
            row.failures = 1 if at - row.last >= FORGOTTEN else row.failures + 1
            row.last = at
    session.execute(delete(SignInFailure).where(SignInFailure.last < at - FORGOTTEN))
    session.flush()


def succeeded(session: Session, name: str, address: str = "") -> None:
    """Forget the failures of a name, and the one that was counted before this try for the address; the others stay, for more people try from there."""
    of_name, *of_address = _subjects(name, address)
    session.execute(delete(SignInFailure).where(SignInFailure.subject == of_name[0]))
    for subject, _ in of_address:
        session.execute(update(SignInFailure).where(SignInFailure.subject == subject).values(failures=SignInFailure.failures - 1))  # fmt: skip


def check_password(session: Session, name: str, password: str) -> Person | None:
    """Somebody with this name and password; takes as long where there is no such name."""
    person = session.scalar(select(Person).where(Person.name_key == name_key(name), Person.active))
    right = fits(password, person.password if person else _nobody())
    return person if right else None


def pair(session: Session, person: Person) -> tuple[str, datetime]:
    """A code that signs a tablet in as somebody, once, within five minutes."""
    code, expires = secrets.token_urlsafe(24), now() + PAIRING
    session.execute(delete(Pairing).where(Pairing.expires < now()))
    session.add(Pairing(digest=_digest(code), person_id=person.id, epoch=person.epoch, expires=expires))
    session.flush()
    return code, expires


def paired(session: Session, code: str) -> Person:
    """The person whom a code signs in; the code is used up.

    Raises
    ------
    ProblemError : it was used, has expired, or is none.
    """
    row = session.get(Pairing, _digest(code))
    person = session.get(Person, row.person_id) if row else None
    if row is not None:
        session.delete(row)
    if row is None or person is None or not person.active or person.epoch != row.epoch or row.expires < now():
        raise ProblemError([Problem("code", "this code was used or has expired: show a new one on the other device")])
    return person


def _digest(code: str) -> str:
    return hashlib.sha256(code.encode("utf-8", "replace")).hexdigest()


@dataclass(frozen=True, slots=True)
class AuditLine:
    """One line of the audit list."""

    id: int
    at: datetime
    who: str
    role: str
    operation: str
    subject: str
    address: str


def note(session: Session, who: str, role: str, operation: str, subject: str, address: str) -> None:
    """Add a line to the audit list, within the change that it tells of."""
    session.add(Audit(who=who, role=role, operation=operation, subject=subject[:200], address=address[:64]))


def changes(session: Session, before: int | None = None, limit: int = 200) -> list[AuditLine]:
    """Lines of the audit list, the newest first, from one before another on."""
    query = select(Audit).order_by(Audit.id.desc()).limit(limit)
    rows = session.scalars(query if before is None else query.where(Audit.id < before))
    return [AuditLine(r.id, r.at, r.who, r.role, r.operation, r.subject, r.address) for r in rows]


def all_changes(session: Session) -> Iterator[AuditLine]:
    """The whole audit list, the oldest first."""
    for r in session.scalars(select(Audit).order_by(Audit.id)).yield_per(1000):
        yield AuditLine(r.id, r.at, r.who, r.role, r.operation, r.subject, r.address)


def somebody_administers(session: Session) -> bool:
    """There is somebody who can sign in and administer."""
    return bool(session.scalar(select(func.count(Person.id)).where(Person.active, Person.role == "administers")))


def rehash(session: Session, person: Person, password: str) -> None:
    """Keep a password under today's cost where it was kept under an older one."""
    if _hasher.check_needs_rehash(person.password):
        session.execute(update(Person).where(Person.id == person.id).values(password=hash_of(password)))
