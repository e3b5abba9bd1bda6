"""The kinds of database that the tests run on; a PostgreSQL server of their own: in its own directory, on a socket, without a port."""

import os
import pwd
import shutil
import subprocess
import tempfile
from pathlib import Path

import pytest
from sqlalchemy import URL, text
from sqlalchemy.orm import Session

from volmek.store.guards import unguard

#: For tests of what only one kind of database has.
ON_FILES = pytest.mark.parametrize("kind", ["sqlite"], indirect=True)
ON_SERVERS = pytest.mark.parametrize("kind", ["postgresql"], indirect=True)


def without_guards(session: Session, *tables: str) -> None:
    """Take the triggers of tables off, as somebody could who may change the database itself."""
    for statement in unguard(session.get_bind().dialect.name, tables):
        session.execute(text(statement))


#: Where Debian puts the programs of a server.
DEBIAN = Path("/usr/lib/postgresql")
#: Nothing here outlives the tests: a crash of the machine may lose it.
FAST = {"fsync": "off", "synchronous_commit": "off", "full_page_writes": "off", "max_connections": "300", "shared_buffers": "64MB"}  # fmt: skip


def programs() -> Path:
    """Folder of the newest server's programs.

    Raises
    ------
    RuntimeError : there is no server; the tests fail then, they are not skipped.
    """
    there = sorted((p for p in DEBIAN.glob("*/bin") if (p / "initdb").exists()), key=lambda p: int(p.parent.name))
    if not there:
        raise RuntimeError("no PostgreSQL server is installed: make test installs Debian's")
    return there[-1]


class Server:
    """A server from ``start`` to ``stop``."""

    def __init__(self) -> None:
        # A socket's path must be short, and of the user that runs the server: root may not.
        self.folder = Path(tempfile.mkdtemp(prefix="vpg-", dir="/tmp"))
        self.user = "postgres" if os.geteuid() == 0 else pwd.getpwuid(os.geteuid()).pw_name
        self.bin = programs()
        self.made = 0

    def _run(self, *command: str) -> None:
        as_user = ["runuser", "-u", self.user, "--"] if os.geteuid() == 0 else []
        done = subprocess.run([*as_user, *command], cwd=self.folder, capture_output=True, text=True, check=False)
        if done.returncode:
            raise RuntimeError(f"{command[0]}: {done.stdout[-2000:]}{done.stderr[-2000:]}")

    def start(self) -> "Server":
        """Make the cluster and serve it."""
        if os.geteuid() == 0:
            shutil.chown(self.folder, self.user)
        data = str(self.folder / "data")
        self._run(str(self.bin / "initdb"), "-D", data, "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "--no-sync", "-U", "volmek")  # fmt: skip
        settings = " ".join(f"-c {k}={v}" for k, v in FAST.items())
        options = f"-c listen_addresses= -c unix_socket_directories={self.folder} {settings}"
        log = str(self.folder / "log")
        self._run(str(self.bin / "pg_ctl"), "-D", data, "-o", options, "-l", log, "-w", "-t", "60", "start")
        return self

    def stop(self) -> None:
        """End it at once and remove everything."""
        self._run(str(self.bin / "pg_ctl"), "-D", str(self.folder / "data"), "-m", "immediate", "-w", "stop")
        shutil.rmtree(self.folder)

    def url(self, database: str) -> URL:
        """Address of one of its databases."""
        return URL.create(
            "postgresql+psycopg", username="volmek", database=database, query={"host": str(self.folder)}
        )  # fmt: skip

    def new(self, template: str = "template1") -> URL:
        """A database of its own, like another one."""
        import psycopg

        self.made += 1
        name = f"v{self.made}"
        with psycopg.connect(host=str(self.folder), user="volmek", dbname="postgres", autocommit=True) as connection:
            connection.execute(f"CREATE DATABASE {name} TEMPLATE {template}")
        return self.url(name)
