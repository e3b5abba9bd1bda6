"""The server of a workshop: gunicorn, with many connections and TLS; of several processes where the database is a server of its own."""

import os
import socket
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from gunicorn.app.base import BaseApplication
from werkzeug.middleware.proxy_fix import ProxyFix

from volmek.store.engine import Database
from volmek.store.keeping import Keeper
from volmek.web.access import Access
from volmek.web.app import DIST, create_app, settle

#: Requests that one process works on at once; the others wait, with their connection open.
THREADS = 16


class Workshop(BaseApplication):
    """The application behind gunicorn.

    Parameters
    ----------
    database, how : as of ``create_app``
    bind : address and port to listen on
    certificate, key : PEM files for TLS; None where a proxy before it does that, or nobody
    proxied : a proxy on this machine stands before it: it says who asks and how
    processes : how many; more than one only on a PostgreSQL server
    copies : daily copies that are kept of a file
    """

    def __init__(
        self,
        database: Database,
        how: Access,
        bind: str,
        *,
        certificate: Path | None = None,
        key: Path | None = None,
        proxied: bool = False,
        processes: int = 1,
        copies: int = 0,
        say: Callable[[str], None] = print,
    ) -> None:
        self.database, self.how, self.proxied, self.copies, self.say = database, how, proxied, copies, say
        self.settings: dict[str, Any] = {
            "bind": bind,
            "workers": processes,
            "worker_class": "gthread",
            "threads": THREADS,
            "certfile": str(certificate) if certificate else None,
            "keyfile": str(key) if key else None,
            # A worker says that it lives while it computes; a long request does not end it.
            "timeout": 120,
            "graceful_timeout": 10,
            "forwarded_allow_ips": "127.0.0.1,::1" if proxied else "",
            "loglevel": "warning",
            "worker_tmp_dir": "/dev/shm" if os.access("/dev/shm", os.W_OK) else None,
            "control_socket_disable": True,
        }
        super().__init__()

    def load_config(self) -> None:
        """Hand gunicorn its settings."""
        for name, value in self.settings.items():
            if name in self.cfg.settings and value is not None:
                self.cfg.set(name, value)
        self.cfg.set("worker_exit", _end)

    def load(self) -> Any:
        """The application, made in the process that serves it."""
        app = create_app(self.database, DIST, self.how)
        if isinstance(self.database, Path):
            keeper = Keeper(app.extensions["engine"], self.database, self.copies, say=self.say)
            app.extensions["keeper"] = keeper.start()
        settle()
        threading.Thread(target=app.extensions["lines"].all, daemon=True).start()
        _SERVED.append(app)
        if not self.proxied:
            return app
        return ProxyFix(app.wsgi_app, x_for=1, x_proto=1, x_host=1)


def own_address() -> str:
    """The address under which others on the network reach this machine; nothing is sent for it."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # an address for documents, which is nowhere
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def taken(host: str, port: int) -> str:
    """Why an address cannot be listened on, in one sentence; empty where it can."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family, socket.SOCK_STREAM) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            return f"{host} port {port} cannot be used: {error.strerror}; try --port"
    return ""


#: The application of this process, for its end.
_SERVED: list[Any] = []


def _end(_server: object, _worker: object) -> None:
    """At the end of a process: cancel what is long, write the log of a file back."""
    for app in _SERVED:
        app.extensions["queue"].close()
        app.extensions["lines"].close()
        app.extensions["ranges"].close()
        if "keeper" in app.extensions:
            app.extensions["keeper"].stop()
