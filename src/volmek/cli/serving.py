"""Commands that serve: the application, the simulated panel meter, the API's document."""

import json
from pathlib import Path

import click

from volmek.cli.common import FAULT, FILE, fail, starter_in
from volmek.core.document.errors import ProblemError


@click.command()
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

    document, it = starter_in(file, faults)
    try:
        server = MeterServer(panel_meter(document, it), port, speed).start()
        for operation in operations(script):
            server.operate(operation)
            server.advance(0.3)
    except OSError as error:
        fail(str(error))
    except ProblemError as error:
        fail(error)
    click.echo(f"The meter answers at 127.0.0.1:{port}, device 1, floats from holding register 100; Ctrl+C ends it")
    try:
        # a wait without an end is not woken when another thread receives the signal
        while not threading.Event().wait(0.5):
            pass
    except KeyboardInterrupt:
        server.stop()


@click.command()
@click.option(
    "--database", type=click.Path(dir_okay=False, path_type=Path), default=Path("volmek.db"), show_default=True
)
@click.option("--port", default=8080, show_default=True, type=click.IntRange(1, 65535))
@click.option("--demo", is_flag=True, help="Fill an empty database with the demo boards.")
@click.option(
    "--copies", default=7, show_default=True, type=click.IntRange(0, 365), help="Daily copies kept beside the database."
)
def serve(database: Path, port: int, demo: bool, copies: int) -> None:
    """Serve the application on 127.0.0.1."""
    import signal

    from waitress.server import create_server

    from volmek.store.keeping import DatabaseError, InUse, Keeper, usable
    from volmek.web.app import DIST, create_app
    from volmek.web.demo import fill

    if not (DIST / "index.html").is_file():
        fail("the front end is not built; run `make build` first")

    def ended(*_: object) -> None:
        raise KeyboardInterrupt

    for sign in (signal.SIGTERM, signal.SIGHUP):  # a terminal that is closed, a service that is stopped
        signal.signal(sign, ended)
    try:
        usable(database)
        with InUse(database):
            app = create_app(database)
            engine = app.extensions["engine"]
            if demo:
                fill(engine)
            try:
                server = create_server(app, host="127.0.0.1", port=port, threads=8)
            except OSError as error:
                fail(f"port {port} cannot be used: {error.strerror}; try --port")
            keeper = Keeper(engine, database, copies, say=lambda words: click.echo(words, err=True)).start()
            click.echo(f"Volmek is at http://127.0.0.1:{port}/ (database {database}); Ctrl+C ends it")
            try:
                server.run()
            except KeyboardInterrupt:
                server.close()
            finally:
                keeper.stop()
    except DatabaseError as error:
        fail(str(error))


@click.command()
@click.option("--out", type=click.Path(dir_okay=False, path_type=Path), required=True)
def openapi(out: Path) -> None:
    """Write the API's OpenAPI document."""
    import tempfile

    from volmek.web.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        document = create_app(Path(folder) / "empty.db").api_doc
    out.write_text(json.dumps(document, indent=1, ensure_ascii=False, sort_keys=True) + "\n", encoding="utf-8")
