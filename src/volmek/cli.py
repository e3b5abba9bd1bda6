"""The command ``volmek``: size documents, serve the application, write the API's document."""

import json
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import click

from volmek.core.document.errors import ProblemError

# The matrices here are tiny: threads of the linear algebra would only cost time at the start.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

if TYPE_CHECKING:  # the commands load what they need themselves, so that each starts quickly
    from volmek.core.catalogue.catalogue import Catalogue
    from volmek.core.circuit.simulated import SimulatedStarter
    from volmek.core.document.model import StarterDocument


def _fail(problems: object) -> NoReturn:
    click.echo(str(problems), err=True)
    sys.exit(2)


@click.group()
@click.version_option(package_name="volmek")
def main() -> None:
    """Sizes, sets and proves motor starters."""


def _catalogue(name: str) -> "Catalogue":
    """The catalogue in a file; one line for each problem and exit status 2 when it has any."""
    from volmek.core.catalogue.catalogue import Catalogue
    from volmek.files.catalogue_files import read_catalogue

    try:
        data = Path(name).read_bytes()
    except OSError as error:
        _fail(f"{name}: {error.strerror}")
    file = read_catalogue(data, name)
    if file.problems:
        _fail("\n".join(f"{name}, {p}: {p.message}" for p in file.problems))
    return Catalogue.of(Path(name).stem, file.devices)


@main.command()
@click.argument("file", type=click.Path(dir_okay=False))
def catalogue(file: str) -> None:
    """Check the catalogue in FILE (CSV or XLSX) and say what it holds.

    Exits with 2 and says each problem on a line of its own, with table, row and column.
    """
    for table, devices in _catalogue(file).tables.items():
        if devices:
            click.echo(f"{table}: {len(devices)}")


@main.command()
@click.argument("file", type=click.Path(dir_okay=False, allow_dash=True))
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
    from volmek.files.documents import numbered, read_documents

    try:
        data = sys.stdin.buffer.read() if file == "-" else Path(file).read_bytes()
        text = data.decode("utf-8-sig")
    except OSError as error:
        _fail(f"{file}: {error.strerror}")
    except UnicodeDecodeError:
        _fail(f"{file}: is not UTF-8 text")
    try:
        documents, is_list = read_documents(text)
    except ProblemError as error:
        _fail(error)
    chosen = [reference_catalogue() if name == "shipped" else _catalogue(name) for name in files]
    catalogue, designs = side_by_side(chosen or [reference_catalogue()]), []
    problems: list[Problem] = []
    for i, document in enumerate(documents):
        try:
            designs.append(size_starter(document, catalogue).design.to_json(working=working))
        except ProblemError as error:
            problems += numbered(error, i) if is_list else error.problems
    if problems:
        _fail("\n".join(map(str, problems)))
    json.dump(designs if is_list else designs[0], sys.stdout, ensure_ascii=False)
    sys.stdout.write("\n")
    return None


def _document(file: str) -> "StarterDocument":
    """The one starter document in a file; one line for each problem and exit status 2 when it has any."""
    from volmek.files.documents import read_documents

    try:
        data = sys.stdin.buffer.read() if file == "-" else Path(file).read_bytes()
        documents, _ = read_documents(data.decode("utf-8-sig"))
    except OSError as error:
        _fail(f"{file}: {error.strerror}")
    except UnicodeDecodeError:
        _fail(f"{file}: is not UTF-8 text")
    except ProblemError as error:
        _fail(error)
    if len(documents) != 1:
        _fail(f"{file}: holds {len(documents)} documents; one circuit is looked at at a time")
    return documents[0]


def _live(file: str, faults: tuple[str, ...] = ()) -> "SimulatedStarter":
    from volmek.core.catalogue.catalogue import reference_catalogue
    from volmek.core.circuit.simulated import simulated

    try:
        return simulated(_document(file), reference_catalogue(), list(faults))
    except ProblemError as error:
        _fail(error)


def _print(data: object) -> None:
    json.dump(data, sys.stdout, ensure_ascii=False)
    sys.stdout.write("\n")


FILE = click.argument("file", type=click.Path(dir_okay=False, allow_dash=True))
FAULT = click.option(
    "--fault",
    "faults",
    multiple=True,
    help="Put a fault in: 'weld K3:5-6', 'break 12', 'earth 12', 'swap F1:95 F1:97'.",
)


@main.command()
@FILE
def circuit(file: str) -> None:
    """Print the power and control circuit of the starter document in FILE as JSON."""
    from volmek.core.circuit.kernel.report import as_json

    _print(as_json(_live(file).circuit))


@main.command()
@FILE
@click.option(
    "--do", "script", required=True, help="Operations, set apart by semicolons: 'press S2; wait 0.5; release S2'."
)
@FAULT
def simulate(file: str, script: str, faults: tuple[str, ...]) -> None:
    """Operate the circuit of FILE and print what each operation comes to."""
    from volmek.core.circuit.kernel.report import run_script

    try:
        _print(run_script(_live(file, faults).simulator, script))
    except ProblemError as error:
        _fail(error)


@main.command()
@FILE
@FAULT
def prove(file: str, faults: tuple[str, ...]) -> None:
    """Prove the rules of the control circuit of FILE.

    Exits with 0 when every rule holds or is declared, with 1 when one is broken, with 3 when none is broken and one is not decided.
    """
    from dataclasses import asdict

    from volmek.core.circuit.proof.rules import prove as prove_rules

    simulator = _live(file, faults).simulator
    found = prove_rules(simulator.circuit, simulator.engine)
    # holds is always there: true, false, or null where it was not decided.
    _print(
        [
            {k: v for k, v in asdict(p).items() if k == "holds" or (v is not None and v != "" and v is not False)}
            for p in found
        ]
    )
    broken = any(p.holds is False and not p.declared for p in found)
    sys.exit(1 if broken else 3 if any(p.holds is None for p in found) else 0)


@main.command()
@FILE
def failures(file: str) -> None:
    """Print what each single fault of the circuit of FILE does."""
    from dataclasses import asdict

    from volmek.core.circuit.faults import failures as table

    _print([asdict(f) for f in table.failures(_live(file).circuit)])


@main.command()
@FILE
@click.option(
    "--first",
    type=click.Choice(["control", "power"]),
    default="control",
    show_default=True,
    help="Which circuit is wired first.",
)
def plan(file: str, first: str) -> None:
    """Print the build and test plan of the starter document in FILE as JSON: wires, stages, readings, what must be seen."""
    from dataclasses import asdict

    from volmek.core.circuit.build.plan import build_plan

    it = _live(file)
    made = build_plan(it, _document(file), "power_first" if first == "power" else "control_first")
    _print({"wires": [asdict(w) for w in made.wires], "stages": [asdict(s) for s in made.stages]})


@main.command()
@FILE
@click.option("--port", default=5020, show_default=True, type=click.IntRange(1, 65535))
@click.option(
    "--do", "script", default="", help="Operations at the start, set apart by semicolons: 'press S2; release S2'."
)
@click.option(
    "--speed",
    default=1.0,
    show_default=True,
    type=click.FloatRange(0.01, 1000),
    help="Seconds of the starter in one second.",
)
@FAULT
def meter(file: str, port: int, script: str, speed: float, faults: tuple[str, ...]) -> None:
    """Stand in for a Modbus TCP panel meter in the supply of the starter in FILE, until Ctrl+C."""
    import threading

    from volmek.core.circuit.kernel.operations import operations
    from volmek.standin.meter import MeterServer, panel_meter

    it = _live(file, faults)
    try:
        server = MeterServer(panel_meter(_document(file), it), port, speed).start()
        for operation in operations(script):
            server.operate(operation)
            server.advance(0.3)
    except OSError as error:
        _fail(str(error))
    except ProblemError as error:
        _fail(error)
    click.echo(f"The meter answers at 127.0.0.1:{port}, device 1, floats from holding register 100; Ctrl+C ends it")
    try:
        threading.Event().wait()
    except KeyboardInterrupt:
        server.stop()


@main.command()
@click.option(
    "--database", type=click.Path(dir_okay=False, path_type=Path), default=Path("volmek.db"), show_default=True
)
@click.option("--port", default=8080, show_default=True, type=click.IntRange(1, 65535))
@click.option("--demo", is_flag=True, help="Fill an empty database with the demo boards.")
def serve(database: Path, port: int, demo: bool) -> None:
    """Serve the application on 127.0.0.1."""
    from waitress.server import create_server

    from volmek.web.app import DIST, create_app
    from volmek.web.demo import fill

    if not (DIST / "index.html").is_file():
        _fail("the front end is not built; run `make build` first")
    app = create_app(database)
    if demo:
        fill(app.extensions["engine"])
    try:
        server = create_server(app, host="127.0.0.1", port=port, threads=4)
    except OSError as error:
        _fail(f"port {port} cannot be used: {error.strerror}; try --port")
    click.echo(f"Volmek is at http://127.0.0.1:{port}/ (database {database}); Ctrl+C ends it")
    try:
        server.run()
    except KeyboardInterrupt:
        server.close()
    return None


@main.command()
@click.option("--out", type=click.Path(dir_okay=False, path_type=Path), required=True)
def openapi(out: Path) -> None:
    """Write the API's OpenAPI document."""
    import tempfile

    from volmek.web.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        document = create_app(Path(folder) / "empty.db").api_doc
    out.write_text(json.dumps(document, indent=1, ensure_ascii=False, sort_keys=True) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
