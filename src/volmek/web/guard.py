"""Who may ask: only pages of this application, at its own address; and what is answered when the database cannot be written."""

import os
from collections.abc import Callable
from pathlib import Path
from urllib.parse import urlsplit

from flask import Request
from sqlalchemy.exc import DatabaseError, OperationalError

#: Names under which one person's own machine is reached.
OWN = ("127.0.0.1", "localhost", "[::1]")
HEADERS = {
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Content-Security-Policy": (
        "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; "
        "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'self'"
    ),
}


def host_name(host: str) -> str:
    """Name in a Host header, without its port.

    Examples
    --------
    >>> host_name("127.0.0.1:8080"), host_name("[::1]:8080"), host_name("localhost"), host_name("127.0.0.1.example.org")
    ('127.0.0.1', '[::1]', 'localhost', '127.0.0.1.example.org')
    """
    return host.partition("]")[0] + "]" if host.startswith("[") else host.partition(":")[0]


def own_name(host: str) -> bool:
    """A Host header names this machine as one person's own."""
    return host_name(host) in OWN


def foreign(request: Request, allowed: Callable[[str], bool] = own_name) -> str:
    """Why a request is refused as foreign, empty where it is not.

    A page elsewhere could point a name of its own at this machine, or send a form here; neither has this Host and this Origin.

    Parameters
    ----------
    request : with its Host, Origin and Sec-Fetch-Site
    allowed : tells of a Host whether the application is reached under it
    """
    if not allowed(request.host):
        return f"this application is not reached as {host_name(request.host)!r}: open it at its own address"
    origin = request.headers.get("Origin")
    if origin is not None and urlsplit(origin).netloc != request.host:
        return "a page of another address may not ask here"
    site = request.headers.get("Sec-Fetch-Site")
    opened = request.method == "GET" and request.headers.get("Sec-Fetch-Mode") == "navigate" and request.headers.get("Sec-Fetch-Dest") == "document"  # fmt: skip
    if site not in (None, "same-origin", "none") and not (opened and not request.path.startswith("/api/")):
        return "a page of another address may not ask here"
    return ""


def identity(file: Path) -> tuple[int, int] | None:
    """The file behind a path, None where there is none: a database that was deleted or exchanged is told by it."""
    try:
        found = os.stat(file)
    except OSError:
        return None
    return found.st_dev, found.st_ino


def storage_words(error: DatabaseError) -> str:
    """Why nothing could be saved, in one sentence with what was kept and what to do."""
    said = str(error.orig).lower()
    kept = "What you typed is kept on this page; try again after that."
    if "full" in said or "disk i/o" in said:
        return f"The disk is full: nothing of this was saved. Make room on it. {kept}"
    if "readonly" in said or "read-only" in said:
        return (
            f"The database is read-only: nothing of this was saved. Give its file and folder write permission. {kept}"
        )
    if "locked" in said or "busy" in said:
        return f"The database is held by another program: nothing of this was saved. {kept}"
    if "malformed" in said or "not a database" in said or "corrupt" in said:
        return "The database is damaged: nothing of this was saved. End the server and restore the last copy with `volmek restore`."
    if isinstance(error, OperationalError):
        if "lock timeout" in said:
            return f"The database is held by others: nothing of this was saved. {kept}"
        if "connect" in said or "terminat" in said:
            return f"The database server does not answer: nothing of this was saved. {kept}"
        return f"The database could not be used ({error.orig}): nothing of this was saved. {kept}"
    raise error
