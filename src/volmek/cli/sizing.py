"""Commands that size starters and check catalogues."""

from functools import partial
from typing import TYPE_CHECKING, Any

import click

from volmek.cli.common import FILE, catalogue_in, documents_in, fail, write_json
from volmek.core.document.errors import ProblemError

if TYPE_CHECKING:
    from volmek.core.catalogue.catalogue import Catalogue
    from volmek.core.document.model import StarterDocument

#: Documents from which on all processors share a list, and how many each takes at once.
SHARED_FROM, SHARE = 200, 100


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
@click.option("--range", "with_range", is_flag=True, help="Add how sure each result is, and what to find out next.")
@click.option(
    "--catalogue",
    "files",
    multiple=True,
    type=click.Path(dir_okay=False),
    help="Choose from this CSV or XLSX file instead of the shipped range; 'shipped' names that one. May be repeated.",
)
def size(file: str, working: bool, with_range: bool, files: tuple[str, ...]) -> None:
    """Print the design of the starter document in FILE as JSON.

    FILE holds one document, or a list of them, which gives a list; - reads standard input. Bad input exits with
    2 and says each problem on a line of its own, with the field.
    """
    from volmek.core.catalogue.catalogue import reference_catalogue, side_by_side
    from volmek.files.documents import numbered

    documents, is_list = documents_in(file)
    chosen = [reference_catalogue() if name == "shipped" else catalogue_in(name) for name in files]
    one = partial(_designed, side_by_side(chosen or [reference_catalogue()]), working, with_range)
    if len(documents) < SHARED_FROM:
        results = list(map(one, documents))
    else:
        from concurrent.futures import ProcessPoolExecutor

        with ProcessPoolExecutor() as pool:
            results = list(pool.map(one, documents, chunksize=SHARE))
    errors = [(i, r) for i, r in enumerate(results) if isinstance(r, ProblemError)]
    if errors:
        fail("\n".join(str(p) for i, e in errors for p in (numbered(e, i) if is_list else e.problems)))
    write_json(results if is_list else results[0])


def _designed(
    catalogue: "Catalogue", working: bool, with_range: bool, document: "StarterDocument"
) -> dict[str, Any] | ProblemError:
    from volmek.core.sizing import size

    try:
        data = size(document, catalogue).design.to_json(working=working)
        if with_range:
            from dataclasses import asdict

            from volmek.core.ranges.ranges import ranges

            data["ranges"] = asdict(ranges(document, catalogue))
    except ProblemError as error:
        return error
    return data
