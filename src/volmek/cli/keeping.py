"""Commands that keep a database: backup, restore, check."""

from pathlib import Path

import click

from volmek.cli.common import fail

DATABASE = click.option(
    "--database", type=click.Path(dir_okay=False, path_type=Path), default=Path("volmek.db"), show_default=True
)
COPY = click.argument("file", type=click.Path(dir_okay=False, path_type=Path))


@click.command()
@DATABASE
@COPY
def backup(database: Path, file: Path) -> None:
    """Copy the database to FILE, also while it is served."""
    from volmek.store.keeping import DatabaseError
    from volmek.store.keeping import backup as copy

    try:
        copy(database, file)
    except DatabaseError as error:
        fail(str(error))
    click.echo(f"{file} holds everything saved in {database} until now")


@click.command()
@DATABASE
@COPY
def restore(database: Path, file: Path) -> None:
    """Put the copy FILE in the place of the database; what was there is kept beside it."""
    from volmek.store.keeping import DatabaseError
    from volmek.store.keeping import restore as put_back

    try:
        aside = put_back(database, file)
    except DatabaseError as error:
        fail(str(error))
    click.echo(f"{database} is now as {file}" + (f"; what was there is in {aside}" if aside else ""))


@click.command()
@DATABASE
def check(database: Path) -> None:
    """Look the database through: file, rows, chains of the records, seals. Exits with 1 where something is wrong."""
    from volmek.store.keeping import DatabaseError
    from volmek.store.keeping import check as look_through

    if not database.is_file():
        fail(f"there is no database {database}")
    try:
        found = look_through(database)
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
