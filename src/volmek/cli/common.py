"""Shared by all commands: reading files, printing problems, writing JSON."""

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import click

from volmek.core.document.errors import ProblemError

if TYPE_CHECKING:  # the commands load what they need themselves, so that each starts quickly
    from volmek.core.catalogue.catalogue import Catalogue
    from volmek.core.circuit.simulated import SimulatedStarter
    from volmek.core.document.model import StarterDocument
    from volmek.store.engine import Database

FILE = click.argument("file", type=click.Path(dir_okay=False, allow_dash=True))
FAULT = click.option(
    "--fault",
    "faults",
    multiple=True,
    help="Insert a fault: 'weld K3:5-6', 'break 12', 'earth 12', 'swap F1:95 F1:97'.",
)


DATABASE = click.option(
    "--database", default="volmek.db", show_default=True, help="A file, or the address of a PostgreSQL database (postgresql+psycopg://…)."
)  # fmt: skip


def database_in(named: str) -> "Database":
    """The database that an option names; exit status 2 for an address that is none."""
    from volmek.store.engine import database_of

    try:
        return database_of(named)
    except ValueError as error:
        fail(error)


def fail(problems: object) -> NoReturn:
    """Say what is wrong on standard error and exit with 2."""
    click.echo(str(problems), err=True)
    sys.exit(2)


def write_json(data: object) -> None:
    """JSON on standard output."""
    sys.stdout.write(json.dumps(data, ensure_ascii=False) + "\n")


def documents_in(file: str) -> tuple[list["StarterDocument"], bool]:
    """The starter documents in a file, or on standard input for ``-``, and whether they are a list; exit status 2 when one has a problem."""
    from volmek.files.documents import read_documents

    try:
        data = sys.stdin.buffer.read() if file == "-" else Path(file).read_bytes()
        return read_documents(data.decode("utf-8-sig"))
    except OSError as error:
        fail(f"{file}: {error.strerror}")
    except UnicodeDecodeError:
        fail(f"{file}: is not UTF-8 text")
    except ProblemError as error:
        fail(error)


def document_in(file: str) -> "StarterDocument":
    """The one starter document in a file."""
    documents, _ = documents_in(file)
    if len(documents) != 1:
        fail(f"{file}: holds {len(documents)} documents; give a file with one")
    return documents[0]


def starter_in(file: str, faults: tuple[str, ...] = ()) -> tuple["StarterDocument", "SimulatedStarter"]:
    """The document in a file and its circuit, ready to be operated."""
    from volmek.core.catalogue.catalogue import reference_catalogue
    from volmek.core.circuit.simulated import simulated

    document = document_in(file)
    try:
        return document, simulated(document, reference_catalogue(), list(faults))
    except ProblemError as error:
        fail(error)


def catalogue_in(name: str) -> "Catalogue":
    """The catalogue in a file; one line for each problem and exit status 2 when it has any."""
    from volmek.core.catalogue.catalogue import Catalogue
    from volmek.files.catalogue_files import read_catalogue

    try:
        data = Path(name).read_bytes()
    except OSError as error:
        fail(f"{name}: {error.strerror}")
    file = read_catalogue(data, name)
    if file.problems:
        fail("\n".join(f"{name}, {p}: {p.message}" for p in file.problems))
    return Catalogue.of(Path(name).stem, file.devices)
