"""Commands that keep a database: backup, restore, check."""

from pathlib import Path

import click

from volmek.cli.common import DATABASE, database_in, fail

COPY = click.argument("file", type=click.Path(dir_okay=False, path_type=Path))


def _file(database: str) -> Path:
    """The file of a database; one on a server is kept by whoever runs that."""
    where = database_in(database)
    if not isinstance(where, Path):
        fail(
            "this is for a file; a PostgreSQL server has `pg_dump` and `pg_restore`, and `volmek copy` makes a file of it"
        )
    return where


@click.command()
@DATABASE
@COPY
def backup(database: str, file: Path) -> None:
    """Copy the database to FILE, also while it is served."""
    from volmek.store.keeping import DatabaseError
    from volmek.store.keeping import backup as copy

    try:
        copy(_file(database), file)
    except DatabaseError as error:
        fail(str(error))
    click.echo(f"{file} holds everything saved in {database} until now")


@click.command()
@DATABASE
@COPY
def restore(database: str, file: Path) -> None:
    """Put the copy FILE in the place of the database; what was there is kept beside it."""
    from volmek.store.keeping import DatabaseError
    from volmek.store.keeping import restore as put_back

    try:
        aside = put_back(_file(database), file)
    except DatabaseError as error:
        fail(str(error))
    click.echo(f"{database} is now as {file}" + (f"; what was there is in {aside}" if aside else ""))


@click.command()
@DATABASE
def check(database: str) -> None:
    """Look the database through: file, rows, chains of the records, seals. Exits with 1 where something is wrong."""
    from volmek.store.keeping import DatabaseError
    from volmek.store.keeping import check as look_through

    where = database_in(database)
    if isinstance(where, Path) and not where.is_file():
        fail(f"there is no database {where}")
    try:
        found = look_through(where)
    except DatabaseError as error:
        fail(str(error))
    click.echo(f"{found.starters} starters, {found.entries} entries of records, {found.seals} seals")
    for note in found.notes:
        click.echo(f"  {note}")
    for problem in found.problems:
        click.echo(f"✗ {problem}")
    click.echo("nothing is wrong" if not found.problems else f"{len(found.problems)} problems")
    if found.problems:
        raise SystemExit(1)


@click.command()
@click.argument("source")
@click.argument("target")
def copy(source: str, target: str) -> None:
    """Copy the database SOURCE into the empty one TARGET: files, or addresses of PostgreSQL databases; counts and digests are compared."""
    from volmek.store.copying import PASSING
    from volmek.store.copying import copy as copy_all
    from volmek.store.engine import database_name
    from volmek.store.keeping import DatabaseError

    there, here = database_in(source), database_in(target)
    try:
        found = copy_all(there, here)
    except DatabaseError as error:
        fail(str(error))
    for table in found:
        click.echo(f"{table.table:<18} {table.rows:>8} rows  {table.digest[:16]}")
    left = ", ".join(x.__tablename__ for x in PASSING)
    click.echo(
        f"{database_name(here)} holds the same as {database_name(there)}, row by row; left out, for it is made anew: {left}"
    )
