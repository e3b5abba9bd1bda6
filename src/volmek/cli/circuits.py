"""Commands about the circuit of a starter: printed, operated, proved, built."""

import json
import sys
from pathlib import Path

import click

from volmek.cli.common import FAULT, FILE, fail, starter_in, write_json
from volmek.core.document.errors import ProblemError


@click.command()
@FILE
def circuit(file: str) -> None:
    """Print the power and control circuit of the starter document in FILE as JSON."""
    from volmek.core.circuit.kernel.report import as_json

    write_json(as_json(starter_in(file)[1].circuit))


@click.command()
@FILE
@click.option(
    "--do", "script", required=True, help="Operations, separated by semicolons: 'press S2; wait 0.5; release S2'."
)
@FAULT
def simulate(file: str, script: str, faults: tuple[str, ...]) -> None:
    """Operate the circuit of FILE and print what each operation comes to.

    Faults may stand at the beginning of the script, as a counter-example of ``prove`` prints them.
    """
    from volmek.core.circuit.kernel.operations import operations
    from volmek.core.circuit.kernel.report import run_script
    from volmek.core.circuit.proof.story import FAULTS

    todo = list(operations(script))
    first = next((i for i, operation in enumerate(todo) if not operation.startswith(FAULTS)), len(todo))
    try:
        simulator = starter_in(file, (*faults, *todo[:first]))[1].simulator
        write_json(run_script(simulator, "; ".join(todo[first:])))
    except ProblemError as error:
        fail(error)


@click.command()
@FILE
@FAULT
@click.option(
    "--certificate",
    type=click.Path(dir_okay=False, writable=True),
    help="Write the proofs there too, as a file that volmek verify checks.",
)
def prove(file: str, faults: tuple[str, ...], certificate: str | None) -> None:
    """Prove the rules of the control circuit of FILE.

    Exits with 0 when every rule holds or is declared, with 1 when one is broken, with 3 when none is broken and one is not decided.
    """
    from dataclasses import asdict, replace

    from volmek.core.circuit.proof.rules import prove as prove_rules
    from volmek.core.circuit.proof.story import counterexample

    document, it = starter_in(file, faults)
    simulator = it.simulator
    if certificate:
        from volmek.core.circuit.proof.certificate import certificate_of

        try:
            made = certificate_of(document.tag, simulator, document.own_rules)
        except ProblemError as error:
            fail(error)
        Path(certificate).write_text(json.dumps(made, indent=1) + "\n")
    found = [
        replace(p, shortest=counterexample(simulator, p)) if p.holds is False and p.shortest else p
        for p in prove_rules(simulator.circuit, simulator.engine, own=document.own_rules, sim=simulator)
    ]
    # holds is always there: true, false, or null where it was not decided.
    write_json(
        [
            {k: v for k, v in asdict(p).items() if k == "holds" or (v is not None and v != "" and v is not False)}
            for p in found
        ]
    )
    broken = any(p.holds is False and not p.declared for p in found)
    sys.exit(1 if broken else 3 if any(p.holds is None for p in found) else 0)


@click.command()
@FILE
@click.option(
    "--document",
    type=click.Path(exists=True, dir_okay=False),
    help="Starter document whose circuit the certificate must be of.",
)
def verify(file: str, document: str | None) -> None:
    """Check the certificate in FILE with a second, simple checker that shares nothing with the prover.

    Prints which rules it confirms and which it says nothing about. Exits with 1 when the certificate is refused.
    """
    from volmek.core.verify.checker import RefusedError, check

    try:
        data = json.loads(sys.stdin.read() if file == "-" else Path(file).read_text())
        found = check(data)
        if document:
            from volmek.core.circuit.proof.certificate import netlist_of

            if netlist_of(starter_in(document)[1].circuit) != data["netlist"]:
                raise RefusedError(f"the certificate is of another circuit than that of {document}")
    except (RefusedError, ValueError, OSError) as error:
        click.echo(f"Refused: {error}", err=True)
        sys.exit(1)
    write_json(
        {
            "digest": data["digest"],
            "tag": data["tag"],
            "states": found.states,
            "confirmed": found.confirmed,
            "not_checked": found.taken,
        }
    )


@click.command()
@FILE
def failures(file: str) -> None:
    """Print what each single fault of the circuit of FILE does."""
    from dataclasses import asdict

    from volmek.core.circuit.faults import failures as table

    write_json([asdict(f) for f in table.failures(starter_in(file)[1].circuit)])


@click.command()
@FILE
@click.option(
    "--first",
    type=click.Choice(["control", "power"]),
    default="control",
    show_default=True,
    help="Circuit that is wired first.",
)
def plan(file: str, first: str) -> None:
    """Print the build and test plan of the starter document in FILE as JSON: wires, stages, readings, what must be seen."""
    from dataclasses import asdict

    from volmek.core.circuit.build.plan import build_plan

    document, it = starter_in(file)
    made = build_plan(it, document, "power_first" if first == "power" else "control_first")
    write_json({"wires": [asdict(w) for w in made.wires], "stages": [asdict(s) for s in made.stages]})
