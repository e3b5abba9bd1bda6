"""Licences of everything that is shipped: Python packages that run here, and what the front end was built of."""

import json
import re
from dataclasses import dataclass
from functools import lru_cache
from importlib.metadata import Distribution, PackageNotFoundError, distribution
from pathlib import Path

from flask import current_app
from flask_openapi3.blueprint import APIBlueprint
from packaging.requirements import Requirement

from volmek.web.common import operation_id
from volmek.web.schemas import Output

bp = APIBlueprint("licences", __name__, url_prefix="/api", operation_id_callback=operation_id)
#: Made with the pages, in their folder.
BUILT = "licences.json"
TEXT = re.compile(r"(^|/)(licen[cs]e|copying|notice)[^/]*$", re.IGNORECASE)
#: Fonts are shipped with the front end; the icons and drawings are this project's own.
CLASSIFIER = "License :: OSI Approved :: "


@dataclass(frozen=True, slots=True)
class Licence:
    """One package that is shipped or runs with this program.

    Attributes
    ----------
    part : where it runs, ``server`` or ``page``
    licence : short name as the package gives it
    text : the licence itself, empty where the package carries none
    """

    name: str
    version: str
    part: str
    licence: str
    text: str


class LicencesOut(Output):
    """Every package by name."""

    licences: list[Licence]


def _short(found: Distribution) -> str:
    meta = found.metadata
    if "License-Expression" in meta:
        return str(meta["License-Expression"])
    named = [c.removeprefix(CLASSIFIER) for c in meta.get_all("Classifier") or [] if c.startswith(CLASSIFIER)]
    first = (str(meta["License"]) if "License" in meta else "").strip().splitlines()
    return ", ".join(named) or (first[0][:80] if first else "see its text")


def _text(found: Distribution) -> str:
    files = [f for f in found.files or [] if TEXT.search(f.as_posix()) and f.suffix in ("", ".txt", ".md", ".rst")]
    return "\n\n".join(Path(str(f.locate())).read_text(encoding="utf-8", errors="replace") for f in sorted(files) if Path(str(f.locate())).is_file())  # fmt: skip


@lru_cache(maxsize=1)
def of_the_server() -> tuple[Licence, ...]:
    """Python packages that this program needs, with those that they need."""
    todo, found = [Requirement("volmek")], dict[str, Licence]()
    seen = set[tuple[str, str]]()
    while todo:
        wanted = todo.pop()
        try:
            there = distribution(wanted.name)
        except PackageNotFoundError:  # for another system or version of Python
            continue
        name = there.metadata["Name"]
        found[name] = Licence(name, there.version, "server", _short(there), _text(there))
        for extra in ("", *wanted.extras):
            if (name, extra) in seen:
                continue
            seen.add((name, extra))
            needs = map(Requirement, there.requires or [])
            todo += [r for r in needs if r.marker is None or r.marker.evaluate({"extra": extra})]
    return tuple(x for x in found.values() if x.name != "volmek")


def licences(dist: Path) -> list[Licence]:
    """Everything that is shipped, by name.

    Parameters
    ----------
    dist : folder of the built front end
    """
    built = dist / BUILT
    of_the_page = [Licence(**x) for x in json.loads(built.read_text(encoding="utf-8"))] if built.is_file() else []
    return sorted([*of_the_server(), *of_the_page], key=lambda x: x.name.lower())


@bp.get("/licences", responses={200: LicencesOut})
def list_licences() -> LicencesOut:
    """Licences of everything that is shipped."""
    return LicencesOut.model_construct(licences=licences(current_app.extensions["dist"]))
