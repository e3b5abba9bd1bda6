"""Commands that serve: the application, the simulated panel meter, the API's document."""

import json
from pathlib import Path
from typing import TYPE_CHECKING

import click

from volmek.cli.common import DATABASE, FAULT, FILE, database_in, fail, starter_in
from volmek.core.document.errors import ProblemError

if TYPE_CHECKING:
    from sqlalchemy import Engine

    from volmek.store.engine import Database

PEM = click.Path(exists=True, dir_okay=False, path_type=Path)


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
@DATABASE
@click.option("--port", default=8080, show_default=True, type=click.IntRange(1, 65535))
@click.option("--demo", is_flag=True, help="Fill an empty database with the demo boards.")
@click.option(
    "--copies", default=7, show_default=True, type=click.IntRange(0, 365), help="Daily copies kept beside the database."
)
@click.option("--lan", is_flag=True, help="For a workshop: on every address of this machine, people sign in.")
@click.option("--host", default="", help="For a workshop: on this address alone.")
@click.option("--name", "names", multiple=True, help="Name under which the machine is reached, beside its own.")
@click.option("--tls-cert", "certificate", type=PEM, help="Certificate for TLS, as a PEM file.")
@click.option("--tls-key", "key", type=PEM, help="Key of the certificate, as a PEM file.")
@click.option(
    "--behind-proxy", is_flag=True, help="For a workshop: a proxy on this machine does TLS; listens on 127.0.0.1."
)
@click.option(
    "--processes", default=1, show_default=True, type=click.IntRange(1, 32), help="On PostgreSQL: so many processes."
)
@click.option(
    "--stay-h",
    default=12.0,
    show_default=True,
    type=click.FloatRange(0.1, 720),
    help="Hours without a request after which a sign-in ends.",
)
def serve(
    database: str,
    port: int,
    demo: bool,
    copies: int,
    lan: bool,
    host: str,
    names: tuple[str, ...],
    certificate: Path | None,
    key: Path | None,
    behind_proxy: bool,
    processes: int,
    stay_h: float,
) -> None:
    """Serve the application: on 127.0.0.1 for one person alone, or for a workshop where people sign in."""
    from contextlib import nullcontext

    from volmek.store.engine import make_engine, upgrade
    from volmek.store.keeping import DatabaseError, InUse, usable
    from volmek.web.app import DIST
    from volmek.web.demo import fill

    if not (DIST / "index.html").is_file():
        fail("the front end is not built; run `make build` first")
    workshop = lan or bool(host) or behind_proxy
    for wrong, words in (
        (lan and bool(host), "give --lan or --host, not both"),
        (behind_proxy and (lan or bool(host)), "--behind-proxy listens on 127.0.0.1: leave --lan and --host out"),
        ((certificate is None) != (key is None), "give --tls-cert and --tls-key together"),
        (certificate is not None and not workshop, "TLS is for a workshop: give --lan or --host too"),
        (certificate is not None and behind_proxy, "give a certificate here or to the proxy, not both"),
        (bool(names) and not workshop, "--name is for a workshop: give --lan, --host or --behind-proxy too"),
        (
            processes > 1 and not workshop,
            "several processes are for a workshop: give --lan, --host or --behind-proxy too",
        ),
        (
            processes > 1 and "://" not in database,
            "several processes need a PostgreSQL database; a file is served by one",
        ),
    ):
        if wrong:
            fail(words)
    where = database_in(database)
    try:
        usable(where)
        with InUse(where) if isinstance(where, Path) else nullcontext():
            engine = make_engine(where)
            upgrade(engine)
            if demo:
                fill(engine)
            if workshop:
                somebody(engine)
            engine.dispose()
            if not workshop:
                alone(where, port, copies)
            else:
                at_work(
                    where,
                    host or ("127.0.0.1" if behind_proxy else "0.0.0.0"),
                    port,
                    names,
                    certificate,
                    key,
                    behind_proxy,
                    processes,
                    copies,
                    stay_h,
                )
    except DatabaseError as error:
        fail(str(error))


def somebody(engine: "Engine") -> None:
    """Refuse to open a workshop that nobody could administer."""
    from sqlalchemy.orm import Session

    from volmek.store.people import somebody_administers

    with Session(engine) as session:
        if not somebody_administers(session):
            fail("nobody may sign in yet: first `volmek user add NAME --role administers`")


def alone(where: "Database", port: int, copies: int) -> None:
    """For one person on this machine."""
    import signal
    import threading

    from waitress.server import create_server

    from volmek.store.engine import database_name
    from volmek.store.keeping import Keeper
    from volmek.web.app import create_app, settle

    def ended(*_: object) -> None:
        raise KeyboardInterrupt

    for sign in (signal.SIGTERM, signal.SIGHUP):  # a terminal that is closed, a service that is stopped
        signal.signal(sign, ended)
    app = create_app(where)
    settle()
    try:
        server = create_server(app, host="127.0.0.1", port=port, threads=8)
    except OSError as error:
        fail(f"port {port} cannot be used: {error.strerror}; try --port")
    keeper = None
    if isinstance(where, Path):
        keeper = Keeper(app.extensions["engine"], where, copies, say=lambda words: click.echo(words, err=True)).start()
    click.echo(f"Volmek is at http://127.0.0.1:{port}/ (database {database_name(where)}); Ctrl+C ends it")
    threading.Thread(target=app.extensions["lines"].all, daemon=True).start()  # after an upgrade they are made anew
    try:
        server.run()
    except KeyboardInterrupt:
        server.close()
    finally:
        app.extensions["queue"].close()
        app.extensions["lines"].close()
        if keeper is not None:
            keeper.stop()


def at_work(
    where: "Database",
    host: str,
    port: int,
    names: tuple[str, ...],
    certificate: Path | None,
    key: Path | None,
    proxied: bool,
    processes: int,
    copies: int,
    stay_h: float,
) -> None:
    """For a workshop: people sign in."""
    from datetime import timedelta

    from volmek.store.engine import database_name
    from volmek.web.access import Access
    from volmek.web.workshop import Workshop, own_address, taken

    if words := taken(host, port):
        fail(words)
    tls = certificate is not None
    scheme = "https" if tls or proxied else "http"
    shown = names[0] if names else own_address() if host == "0.0.0.0" else host
    at = f"{scheme}://{shown}" + ("" if proxied else f":{port}")
    how = Access(
        workshop=True,
        names=names,
        tls=tls or proxied,
        at=at if names or not proxied else "",
        stay=timedelta(hours=stay_h),
        processes=processes,
    )
    click.echo(f"Volmek is at {at}/ (database {database_name(where)}); people sign in; Ctrl+C ends it")
    if not how.tls:
        click.echo(
            "▲ Without TLS passwords and records can be read on the network: give --tls-cert and --tls-key, or --behind-proxy.",
            err=True,
        )
    bind = f"[{host}]:{port}" if ":" in host else f"{host}:{port}"
    say = lambda words: click.echo(words, err=True)  # noqa: E731
    Workshop(
        where, how, bind, certificate=certificate, key=key, proxied=proxied, processes=processes, copies=copies, say=say
    ).run()


@click.command()
@click.option("--text", is_flag=True, help="With the text of each.")
def licences(text: bool) -> None:
    """List the licences of everything that is shipped or runs with this program."""
    from volmek.web.app import DIST
    from volmek.web.licences import licences as all_of

    for one in all_of(DIST):
        click.echo(f"{one.name:<36} {one.version:<14} {one.part:<7} {one.licence}")
        if text:
            click.echo(f"\n{one.text}\n")


@click.command()
@click.option("--out", type=click.Path(dir_okay=False, path_type=Path), required=True)
def openapi(out: Path) -> None:
    """Write the API's OpenAPI document."""
    import tempfile

    from volmek.web.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        document = create_app(Path(folder) / "empty.db").api_doc
    out.write_text(json.dumps(document, indent=1, ensure_ascii=False, sort_keys=True) + "\n", encoding="utf-8")
