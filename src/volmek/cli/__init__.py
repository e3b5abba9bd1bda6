"""The command ``volmek``: size documents, look at circuits, serve the application."""

import os

# Before anything is loaded: the matrices here are tiny, threads of the linear algebra would only cost time at the start; and no
# plug-in of the validation is used, so that nobody need look for one.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "1")

import click

from volmek.cli import circuits, keeping, people, quick, serving, sizing


@click.group()
@click.version_option(package_name="volmek")
def main() -> None:
    """Sizes, sets and proves motor starters."""


for _command in (
    quick.quick,
    sizing.size,
    sizing.catalogue,
    circuits.circuit,
    circuits.simulate,
    circuits.prove,
    circuits.failures,
    circuits.verify,
    circuits.plan,
    serving.serve,
    serving.meter,
    serving.openapi,
    serving.licences,
    keeping.backup,
    keeping.restore,
    keeping.check,
    keeping.copy,
    people.user,
):
    main.add_command(_command)
