"""The server of a workshop as it is started: who may not start it, TLS, several processes on PostgreSQL, a clean end."""

import http.cookiejar
import json
import shutil
import socket
import ssl
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from sqlalchemy import URL

from databases import Server
from volmek.cli import main
from volmek.store.copying import copy

PASSWORD = "a long enough one"


def volmek(*args: str, typed: str = "") -> tuple[int, str]:
    done = CliRunner().invoke(main, list(args), input=typed)
    return done.exit_code, done.output


def free_port() -> int:
    with socket.create_server(("127.0.0.1", 0)) as probe:
        return int(probe.getsockname()[1])


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["--lan"], "nobody may sign in yet"),
        (["--lan", "--host", "10.0.0.1"], "not both"),
        (["--behind-proxy", "--lan"], "leave --lan and --host out"),
        (["--name", "shop"], "for a workshop"),
        (["--processes", "2"], "for a workshop"),
        (["--lan", "--processes", "2"], "need a PostgreSQL database"),
        (["--lan", "--tls-cert", __file__], "together"),
        (["--tls-cert", __file__, "--tls-key", __file__], "for a workshop"),
        (["--database", "mysql://x/y"], "is not served here"),
        (["--database", "postgresql+psycopg:///nowhere?host=/nowhere"], "cannot be reached"),
    ],
)
def test_what_cannot_be_served_is_one_sentence(tmp_path: Path, options: list[str], words: str) -> None:
    code, said = volmek("serve", "--database", str(tmp_path / "x.db"), *options)
    assert code == 2 and words in said and "Traceback" not in said, said


def test_people_on_the_command_line(tmp_path: Path) -> None:
    of = ("--database", str(tmp_path / "shop.db"))
    assert "nobody may sign in yet" in volmek("user", "list", *of)[1]
    assert (
        "at least 10"
        in volmek("user", "add", "Ann", "--role", "administers", *of, "--password-file", "-", typed="short\n")[1]
    )
    typed = f"{PASSWORD}\n{PASSWORD}\n"  # asked for twice
    assert volmek("user", "add", "Ann", "--role", "administers", *of, typed=typed)[0] == 0
    assert volmek("user", "add", "Bob", "--role", "reads", *of, "--password-file", "-", typed=f"{PASSWORD}\n")[0] == 0
    assert (
        "give another one"
        in volmek("user", "add", "ann", "--role", "reads", *of, "--password-file", "-", typed=f"{PASSWORD}\n")[1]
    )
    assert volmek("user", "role", "Bob", "--role", "works", *of)[0] == 0
    assert volmek("user", "list", *of)[1].split() == ["administers", "Ann", "works", "Bob"]
    for command in ("sign-out", "remove"):
        assert volmek("user", command, "Bob", *of)[0] == 0
    assert "nobody called" in volmek("user", "remove", "Bob", *of)[1]
    assert "last one who administers" in volmek("user", "remove", "Ann", *of)[1]
    assert volmek("user", "password", "Ann", *of, "--password-file", "-", typed="quite another one\n")[0] == 0


def test_a_database_is_copied_either_way(demo_database: Path, server: Server, tmp_path: Path) -> None:
    there, back = server.new().render_as_string(hide_password=False), tmp_path / "back.db"
    code, said = volmek("copy", str(demo_database), there)
    assert code == 0 and "journal" in said and "row by row" in said, said
    assert "is not empty" in volmek("copy", str(demo_database), there)[1]
    code, again = volmek("copy", there, str(back))
    digests = [line.split() for line in said.splitlines() if " rows " in line]
    assert (
        code == 0 and digests == [line.split() for line in again.splitlines() if " rows " in line] and len(digests) > 10
    )
    assert "is there already" in volmek("copy", there, str(back))[1]
    assert volmek("check", "--database", there)[1] == volmek("check", "--database", str(back))[1]
    assert "pg_dump" in volmek("backup", str(tmp_path / "copy.db"), "--database", there)[1]
    assert "there is no database" in volmek("copy", str(tmp_path / "none.db"), there)[1]


@pytest.fixture
def certificate(tmp_path: Path) -> tuple[Path, Path]:
    cert, key = tmp_path / "cert.pem", tmp_path / "key.pem"
    names = "subjectAltName=DNS:localhost,IP:127.0.0.1"
    command = [
        "openssl",
        "req",
        "-x509",
        "-newkey",
        "rsa:2048",
        "-nodes",
        "-days",
        "2",
        "-subj",
        "/CN=localhost",
        "-addext",
        names,
    ]
    subprocess.run([*command, "-keyout", str(key), "-out", str(cert)], check=True, capture_output=True)
    return cert, key


class Shop:
    """A running workshop, and a browser of one person."""

    def __init__(self, port: int, cert: Path) -> None:
        self.at = f"https://127.0.0.1:{port}"
        trusted = urllib.request.HTTPSHandler(context=ssl.create_default_context(cafile=str(cert)))
        self.opener = urllib.request.build_opener(
            trusted, urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar())
        )

    def ask(self, path: str, method: str = "GET", body: Any = None, **headers: str) -> tuple[int, Any]:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(
            self.at + path, data, {"Content-Type": "application/json", **headers}, method=method
        )
        try:
            with self.opener.open(request, timeout=60) as answer:
                text = answer.read()
                return answer.status, json.loads(text) if "json" in answer.headers["Content-Type"] else text
        except urllib.error.HTTPError as error:
            return error.code, json.loads(error.read() or b"{}")


@pytest.fixture(params=["sqlite", "postgresql"])
def shop(
    request: pytest.FixtureRequest, demo_database: Path, certificate: tuple[Path, Path], tmp_path: Path
) -> Iterator[Shop]:
    where: Path | URL = Path(shutil.copy(demo_database, tmp_path / "shop.db"))
    more: list[str] = []
    if request.param == "postgresql":
        where, more = request.getfixturevalue("server").new(), ["--processes", "3"]
        copy(demo_database, where)
    named = where.render_as_string(hide_password=False) if isinstance(where, URL) else str(where)
    for name, role in (("Ann", "administers"), ("Dora", "designs")):
        assert (
            volmek(
                "user", "add", name, "--role", role, "--database", named, "--password-file", "-", typed=f"{PASSWORD}\n"
            )[0]
            == 0
        )
    port, (cert, key) = free_port(), certificate
    command = [
        sys.executable,
        "-m",
        "volmek.cli",
        "serve",
        "--host",
        "127.0.0.1",
        "--port",
        str(port),
        "--database",
        named,
    ]
    process = subprocess.Popen(
        [*command, "--tls-cert", str(cert), "--tls-key", str(key), *more], stderr=subprocess.PIPE, text=True
    )
    made = Shop(port, cert)
    until = time.monotonic() + 60
    while True:
        try:
            assert made.ask("/api/me")[0] == 200
            break
        except OSError:
            assert time.monotonic() < until and process.poll() is None
            time.sleep(0.1)
    yield made
    process.terminate()
    _, said = process.communicate(timeout=40)
    assert process.returncode == 0 and "Traceback" not in said, said
    if isinstance(where, Path):
        log = where.with_name(where.name + "-wal")
        assert not log.exists() or log.stat().st_size == 0, "the file alone holds everything"


def test_people_work_over_tls_on_every_process(shop: Shop) -> None:
    assert shop.ask("/api/boards")[0] == 401
    assert shop.ask("/api/sign-in", "POST", {"name": "Dora", "password": PASSWORD}) == (200, {"workshop": True, "name": "Dora", "role": "designs", "encrypted": True})  # fmt: skip
    for n in range(12):  # whichever process answers
        _, starter = shop.ask("/api/starters/7")
        assert starter["version"] == n + 1
        starter["document"]["service"] = f"Fan {n}"
        status, saved = shop.ask(
            "/api/starters/7", "PUT", {"version": starter["version"], "document": starter["document"]}
        )
        assert (status, saved["version"]) == (200, n + 2)
        assert shop.ask("/api/starters/7/state")[1]["changed_by"] == "Dora"
    queued = {"X-Work": f"paper-{time.time_ns()}", "Prefer": "respond-async"}
    assert shop.ask("/api/starters/7/sheet.pdf", **queued)[0] == 202
    key, seen = queued["X-Work"], set[int]()
    for _ in range(400):
        status, answer = shop.ask(f"/api/requests/{key}/answer")
        seen.add(status)
        if status != 202:
            break
        assert shop.ask(f"/api/requests/{key}")[0] in (200, 404)
        time.sleep(0.05)
    assert status == 200 and answer[:4] == b"%PDF" and seen <= {200, 202}
    assert shop.ask("/api/people")[0] == 403
    assert shop.ask("/api/sign-in", "DELETE")[1]["name"] == "" and shop.ask("/api/boards")[0] == 401


def test_behind_a_proxy_the_request_is_what_the_proxy_says(demo_database: Path, tmp_path: Path) -> None:
    where = Path(shutil.copy(demo_database, tmp_path / "shop.db"))
    assert (
        volmek(
            "user",
            "add",
            "Ann",
            "--role",
            "administers",
            "--database",
            str(where),
            "--password-file",
            "-",
            typed=f"{PASSWORD}\n",
        )[0]
        == 0
    )
    port = free_port()
    command = [
        sys.executable,
        "-m",
        "volmek.cli",
        "serve",
        "--behind-proxy",
        "--name",
        "volmek.example.lan",
        "--port",
        str(port),
        "--database",
        str(where),
    ]
    process = subprocess.Popen(command)
    proxied = {"X-Forwarded-Proto": "https", "X-Forwarded-Host": "volmek.example.lan", "X-Forwarded-For": "10.20.0.9"}
    try:

        def ask(path: str, headers: dict[str, str], body: Any = None) -> tuple[int, Any, Any]:
            data = None if body is None else json.dumps(body).encode()
            request = urllib.request.Request(
                f"http://127.0.0.1:{port}{path}", data, {"Content-Type": "application/json", **headers}
            )
            try:
                with urllib.request.urlopen(request, timeout=30) as answer:
                    return answer.status, json.loads(answer.read()), answer.headers
            except urllib.error.HTTPError as error:
                return error.code, json.loads(error.read()), error.headers

        until = time.monotonic() + 60
        while True:
            try:
                assert ask("/api/me", proxied)[1]["encrypted"] is True
                break
            except OSError:
                assert time.monotonic() < until and process.poll() is None
                time.sleep(0.1)
        origin = {"Origin": "https://volmek.example.lan"}
        status, _, headers = ask("/api/sign-in", proxied | origin, {"name": "Ann", "password": PASSWORD})
        assert status == 200 and "Secure" in headers["Set-Cookie"]
        cookie = {"Cookie": headers["Set-Cookie"].partition(";")[0]}
        paired = ask("/api/pairing", proxied | origin | cookie, {})[1]
        assert paired["address"].startswith("https://volmek.example.lan/pair#")
        assert ask("/api/changes", proxied | cookie)[1]["changes"][0]["address"] == "10.20.0.9"
        assert ask("/api/boards", proxied | cookie | {"X-Forwarded-Host": "evil.example"})[0] == 403
        assert ask("/api/boards", proxied | cookie | {"Origin": "https://evil.example"})[0] == 403
    finally:
        process.terminate()
        process.wait(timeout=40)
