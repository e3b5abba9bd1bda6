"""Commands for people: who may sign in, and as what."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, TextIO

import click

from volmek.cli.common import DATABASE, database_in, fail
from volmek.core.document.errors import ProblemError
from volmek.store.roles import ROLES, Role

if TYPE_CHECKING:
    from sqlalchemy.orm import Session

ROLE = click.Choice(ROLES)
NAME = click.argument("name")
PASSWORD = click.option(
    "--password-file", type=click.File("r"), help="File with the password in its first line ('-' for standard input), in place of being asked."
)  # fmt: skip


@click.group()
def user() -> None:
    """Who may sign in in a workshop, and as what."""


@contextmanager
def _changing(database: str) -> Iterator["Session"]:
    from sqlalchemy.exc import DatabaseError as DriverError
    from sqlalchemy.orm import Session

    from volmek.store.engine import make_engine, upgrade, writer
    from volmek.store.keeping import DatabaseError, usable

    where = database_in(database)
    try:
        usable(where)
        engine = make_engine(where)
        try:
            upgrade(engine)
            with Session(writer(engine), expire_on_commit=False) as session, session.begin():
                yield session
        finally:
            engine.dispose()
    except ProblemError as error:
        fail("; ".join(p.message for p in error.problems))
    except (LookupError, DatabaseError) as error:
        fail(str(error))
    except DriverError as error:
        fail(f"the database cannot be used: {error.orig}")


def _password(file: TextIO | None) -> str:
    if file is not None:
        return file.readline().rstrip("\r\n")
    return str(click.prompt("Password (at least 10 characters)", hide_input=True, confirmation_prompt=True))


@user.command()
@DATABASE
@NAME
@click.option("--role", type=ROLE, required=True)
@PASSWORD
def add(database: str, name: str, role: Role, password_file: TextIO | None) -> None:
    """Let NAME sign in."""
    from volmek.store.people import add_person

    password = _password(password_file)
    with _changing(database) as session:
        made = add_person(session, name, role, password)
    click.echo(f"{made.name} may sign in; role: {role}")


@user.command(name="list")
@DATABASE
def list_all(database: str) -> None:
    """Everybody who may sign in."""
    from volmek.store.people import people

    with _changing(database) as session:
        rows = [(p.name, p.role) for p in people(session)]
    for name, role in rows:
        click.echo(f"{role:<12} {name}")
    if not rows:
        click.echo("nobody may sign in yet: volmek user add NAME --role administers")


@user.command()
@DATABASE
@NAME
@click.option("--role", type=ROLE, required=True)
def role(database: str, name: str, role: Role) -> None:
    """Give NAME another role."""
    from volmek.store.people import person_of, set_role

    with _changing(database) as session:
        set_role(session, person_of(session, name), role)
    click.echo(f"{name}: {role}")


@user.command()
@DATABASE
@NAME
@PASSWORD
def password(database: str, name: str, password_file: TextIO | None) -> None:
    """Give NAME another password; every device of theirs is signed out."""
    from volmek.store.people import person_of, set_password

    new = _password(password_file)
    with _changing(database) as session:
        set_password(session, person_of(session, name), new)
    click.echo(f"{name} has another password and is signed out everywhere")


@user.command(name="sign-out")
@DATABASE
@NAME
def sign_out(database: str, name: str) -> None:
    """Sign NAME out on every device."""
    from volmek.store.people import end_sign_ins, person_of

    with _changing(database) as session:
        end_sign_ins(session, person_of(session, name))
    click.echo(f"{name} is signed out everywhere")


@user.command()
@DATABASE
@NAME
def remove(database: str, name: str) -> None:
    """Let NAME sign in no more; entries keep the name."""
    from volmek.store.people import person_of, take_off

    with _changing(database) as session:
        take_off(session, person_of(session, name))
    click.echo(f"{name} may sign in no more")
