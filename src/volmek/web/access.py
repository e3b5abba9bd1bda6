"""Who may do what: one table of every operation, and who asks."""

import ipaddress
import socket
from dataclasses import dataclass
from datetime import timedelta
from typing import cast

from flask import Flask, current_app, g, has_request_context, request, session
from flask_login import LoginManager, current_user, login_user, logout_user
from sqlalchemy.orm import Session
from werkzeug.exceptions import Forbidden, Unauthorized

from volmek.core.document.errors import Problem, ProblemError
from volmek.store.models import Board, Catalogue, Person, Starter
from volmek.store.people import note
from volmek.store.roles import SAYS, Role, may
from volmek.store.secret import keyed
from volmek.web.guard import OWN, host_name

#: How long a sign-in lasts without a request.
STAY = timedelta(hours=12)


@dataclass(frozen=True, slots=True)
class Access:
    """How the application is reached.

    Attributes
    ----------
    workshop : people sign in; else one person works alone on this machine
    names : names under which it is reached, beside this machine's own and any address
    tls : it is reached encrypted, by itself or behind a proxy
    at : where a tablet reaches it, such as ``https://10.20.0.2:8443``; empty where nobody else can
    stay : how long a sign-in lasts without a request
    processes : how many serve together on this machine
    """

    workshop: bool = False
    names: tuple[str, ...] = ()
    tls: bool = False
    at: str = ""
    stay: timedelta = STAY
    processes: int = 1


ALONE = Access()

#: Who may what, by the name of the operation; None is open to all who reach the server. An operation that is not here does not start.
NEEDS: dict[str, Role | None] = {
    **dict.fromkeys(("get_me", "sign_in", "sign_out", "use_pairing", "get_words"), None),
    **dict.fromkeys(
        (
            "list_boards", "get_board", "get_bin", "board_calendar", "get_starter", "get_history", "get_figures", "starter_state", "boards_state", "list_lines",
            "list_catalogues", "list_devices", "export_text", "export_book", "template_text", "template_book", "list_presets",
            "compute_design", "answer_line", "find_out_for_line", "try_choice", "compare_methods", "get_methods", "get_ranges", "judge_unbalance",
            "get_start", "get_phase_failure", "get_time_current", "time_current_points", "time_current_picture",
            "get_circuit", "circuit_change", "circuit_difference", "circuit_failures", "play_circuit", "prove_circuit", "circuit_certificate",
            "get_build", "find_causes", "get_symptoms", "get_record", "get_progress", "get_readings", "get_meter", "seal_file",
            "report_page", "report_print", "sheet_page", "sheet_print", "labels_page", "labels_print", "diagrams", "diagrams_dxf", "diagrams_page",
            "diagrams_print", "diagram_picture", "document_file", "marker_file", "strip_file", "wire_file", "starter_calendar", "job_file",
            "read_glossary", "list_loads", "get_symbols", "read_tables", "how_far", "long_answer", "cancel_work", "change_password", "sign_out_everywhere", "pair_tablet",
            "list_licences",
        ),
        "reads",
    ),
    **dict.fromkeys(("add_to_journal", "seal_starter", "set_meter_settings", "read_panel_meter", "run_stand_in", "end_stand_in", "second_person"), "works"),
    **dict.fromkeys(
        (
            "add_board", "change_board", "import_starters", "choose_for_board", "add_starter", "copy_starter", "move_to_board", "save_starter",
            "take_catalogue_now", "remove_starter", "put_starter_back", "restore_revision", "open_line", "put_preset", "delete_preset",
            "add_catalogue", "delete_catalogue", "delete_device", "import_devices", "import_whole_job",
        ),
        "designs",
    ),
    **dict.fromkeys(
        (
            "empty_starter", "make_backup", "list_people", "add_somebody", "change_person", "remove_person", "list_meter_addresses", "allow_meter_address",
            "forbid_meter_address", "list_changes", "changes_file",
        ),
        "administers",
    ),
}  # fmt: skip


class SignedIn:
    """Somebody who has signed in, as Flask-Login asks for it."""

    is_authenticated = is_active = True
    is_anonymous = False

    def __init__(self, person: Person) -> None:
        self.person_id, self.epoch, self.name = person.id, person.epoch, person.name
        self.role = cast(Role, person.role)

    def get_id(self) -> str:
        """What the session cookie holds: a later epoch ends it."""
        return f"{self.person_id}:{self.epoch}"


def access() -> Access:
    """How this application is reached."""
    found: Access = current_app.extensions["access"]
    return found


def signed_in() -> SignedIn | None:
    """Who has signed in; nobody where one person works alone."""
    if not has_request_context() or not access().workshop or not current_user.is_authenticated:
        return None
    user: SignedIn = current_user._get_current_object()
    return user


def author(typed: str, second: Person | None = None) -> tuple[str, bool]:
    """Name that an entry, a change or a seal carries, and whether it was signed in with.

    Parameters
    ----------
    typed : as the page sent it; signed in it is empty or the same name
    second : another person who has signed in for this alone

    Raises
    ------
    ProblemError : it was made by another person than the one who has signed in.
    """
    if second is not None:
        return second.name, True
    user = signed_in()
    if user is None:
        return typed.strip(), False
    if typed.strip() not in ("", user.name):
        raise ProblemError([Problem("who", f"made by {typed.strip()}, and {user.name} has signed in: {typed.strip()} must sign in to send it")])  # fmt: skip
    return user.name, True


def login(person: Person) -> None:
    """Let somebody in on this device."""
    session.clear()
    session.permanent = True
    login_user(SignedIn(person))


def logout() -> None:
    """Sign out on this device."""
    logout_user()
    session.clear()


def operation() -> str:
    """Name of the operation that is asked for, empty for the front end."""
    return (request.endpoint or "").rpartition(".")[2]


def check_role() -> None:
    """Refuse what the one who asks may not do.

    Raises
    ------
    Unauthorized : nobody has signed in.
    Forbidden : the role is not enough.
    """
    if not access().workshop or "." not in (request.endpoint or ""):
        return
    needed = NEEDS[operation()]
    if needed is None:
        return
    user = signed_in()
    if user is None:
        raise Unauthorized("sign in first; what you typed is kept on this page")
    if not may(user.role, needed):
        raise Forbidden(f"{user.name} {SAYS[user.role].split(':')[0]}; this needs somebody who {SAYS[needed].split(':')[0]}")  # fmt: skip


def reached_as(host: str, names: tuple[str, ...]) -> bool:
    """A Host header names this machine: by its address, its name, or one of those given.

    An address cannot be pointed elsewhere by a foreign page, a name can.
    """
    name = host_name(host).casefold()
    own = socket.gethostname().casefold()
    if name in (*OWN, own, f"{own}.local", *(n.casefold() for n in names)):
        return True
    try:
        ipaddress.ip_address(name.strip("[]"))
    except ValueError:
        return False
    return True


def noted(connection: Session) -> None:
    """Put what is changed on the audit list, in the same transaction."""
    user = signed_in()
    if user is None:
        return
    subject = g.get("audited") or _subject(connection)
    note(connection, user.name, user.role, operation(), subject, request.remote_addr or "")


def _subject(connection: Session) -> str:
    """What a request is about, in words: the starter, board or catalogue in its address."""
    path = request.view_args or {}
    if (id := path.get("starter_id")) is not None and (starter := connection.get(Starter, id)) is not None:
        return f"{starter.board.name} {starter.tag} (starter {id})"
    if (id := path.get("board_id")) is not None and (board := connection.get(Board, id)) is not None:
        return f"{board.job.name}, {board.name} (board {id})"
    if (id := path.get("catalogue_id")) is not None and (catalogue := connection.get(Catalogue, id)) is not None:
        return f"catalogue {catalogue.name}"
    return ", ".join(f"{k} {v}" for k, v in path.items())


def install(app: Flask, how: Access) -> None:
    """Put sign-in into an application; alone it has none, and no cookies.

    Raises
    ------
    RuntimeError : an operation has no line in ``NEEDS``, or a line has no operation.
    """
    app.extensions["access"] = how
    there = {e.rpartition(".")[2] for e in app.view_functions if "." in e}
    if there != NEEDS.keys():
        raise RuntimeError(f"operations and roles differ: {sorted(there ^ NEEDS.keys())}")
    if not how.workshop:
        return
    app.secret_key = keyed("session cookies")
    app.config.update(
        SESSION_COOKIE_NAME="volmek",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_SECURE=how.tls,
        PERMANENT_SESSION_LIFETIME=how.stay,
    )

    def load(id: str) -> SignedIn | None:
        number, _, epoch = id.partition(":")
        with Session(current_app.extensions["engine"]) as connection:
            person = connection.get(Person, int(number))
            if person is None or not person.active or str(person.epoch) != epoch:
                return None
            return SignedIn(person)

    LoginManager(app).user_loader(load)
