"""The command that answers one line from a plate."""

import click

from volmek.cli.common import fail, write_json
from volmek.core.document.errors import ProblemError


@click.command()
@click.argument("line", nargs=-1, required=True)
@click.option(
    "--practice", type=click.Choice(["iec", "nec"]), help="Practice to follow; else the one that the line proposes."
)
@click.option("--json", "as_json", is_flag=True, help="Print the answer as JSON.")
def quick(line: tuple[str, ...], practice: str | None, as_json: bool) -> None:
    """Answer one line from a plate: what to set and fit.

    For example: volmek quick 7.5 kW 400 V 14.8 A. Exits with 2 where the line does not lead to an answer.
    """
    from dataclasses import asdict
    from typing import cast

    from volmek.core.catalogue.catalogue import reference_catalogue
    from volmek.core.document.model import Practice
    from volmek.core.results.findings import WORDS
    from volmek.core.views.quick import quick_answer

    try:
        found = quick_answer(" ".join(line), reference_catalogue(), cast(Practice | None, practice))
    except ProblemError as error:
        fail(error)
    lost = [f"not understood: {p.typed}{f' ({p.why})' if p.why else ''}" for p in found.read.pieces if not p.understood]
    if as_json:
        write_json(asdict(found))
    elif found.answer:
        click.echo(found.answer.sentence)
        click.echo(found.answer.rests)
        for said in (*found.read.assumed, *(f"{WORDS[f.severity]}: {f.message}" for f in found.answer.findings)):
            click.echo(said)
    for words in lost:
        click.echo(words, err=True)
    if found.answer is None:
        fail("\n".join(str(p) for p in (*found.needed, *found.wrong)) or "no answer")
