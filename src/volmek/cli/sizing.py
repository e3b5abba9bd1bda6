"""Commands that size starters and check catalogues."""

import click

from volmek.cli.common import FILE, catalogue_in, documents_in, fail, write_json
from volmek.core.document.errors import ProblemError


@click.command()
@click.argument("file", type=click.Path(dir_okay=False))
def catalogue(file: str) -> None:
    """Check the catalogue in FILE (CSV or XLSX) and say what it holds.

    Exits with 2 and says each problem on a line of its own, with table, row and column.
    """
    for table, devices in catalogue_in(file).tables.items():
        if devices:
            click.echo(f"{table}: {len(devices)}")


@click.command()
@FILE
@click.option("--working", is_flag=True, help="Add every figure with its formula, inputs, rule and source.")
@click.option(
    "--catalogue",
    "files",
    multiple=True,
    type=click.Path(dir_okay=False),
    help="Choose from this CSV or XLSX file instead of the shipped range; 'shipped' names that one. May be repeated.",
)
def size(file: str, working: bool, files: tuple[str, ...]) -> None:
    """Print the design of the starter document in FILE as JSON.

    FILE holds one document, or a list of them, which gives a list; - reads standard input. Bad input exits with
    2 and says each problem on a line of its own, with the field.
    """
    from volmek.core.catalogue.catalogue import reference_catalogue, side_by_side
    from volmek.core.document.errors import Problem
    from volmek.core.sizing import size as size_starter
    from volmek.files.documents import numbered

    documents, is_list = documents_in(file)
    chosen = [reference_catalogue() if name == "shipped" else catalogue_in(name) for name in files]
    catalogue, designs = side_by_side(chosen or [reference_catalogue()]), []
    problems: list[Problem] = []
    for i, document in enumerate(documents):
        try:
            designs.append(size_starter(document, catalogue).design.to_json(working=working))
        except ProblemError as error:
            problems += numbered(error, i) if is_list else error.problems
    if problems:
        fail("\n".join(map(str, problems)))
    write_json(designs if is_list else designs[0])
