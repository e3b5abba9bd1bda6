"""Presets: parts of a document, kept by name, that new starters begin with."""

from typing import Any

from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select

from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import parse
from volmek.store.catalogues import save_preset
from volmek.store.models import Preset
from volmek.web.common import NOT_FOUND, found, new_session, operation_id, writing
from volmek.web.schemas import Output, ProblemsOut

#: Parts of a document that a preset may hold: all but what belongs to one motor.
PRESET_PARTS = (
    "practice",
    "supply",
    "load",
    "starter",
    "protection",
    "control",
    "monitor",
    "surroundings",
    "assumptions",
)
bp = APIBlueprint("presets", __name__, url_prefix="/api", operation_id_callback=operation_id)


class PresetBody(BaseModel):
    """Parts of a document to be kept under a name."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=80, pattern=r"\S")
    parts: dict[str, Any] = Field(min_length=1)


class PresetOut(Output):
    """A preset."""

    id: int
    name: str
    parts: dict[str, Any]


class PresetsOut(Output):
    """Every preset."""

    presets: list[PresetOut]


class PresetPath(BaseModel):
    """A preset's number in the address."""

    preset_id: int


@bp.get("/presets", responses={200: PresetsOut})
def list_presets() -> PresetsOut:
    """Every preset."""
    with new_session() as session:
        rows = session.scalars(select(Preset).order_by(Preset.name))
        return PresetsOut(presets=[PresetOut(id=p.id, name=p.name, parts=p.parts) for p in rows])


@bp.put("/presets", responses={200: PresetOut, 422: ProblemsOut})
def put_preset(body: PresetBody) -> PresetOut:
    """Keep parts of a document under a name; one of that name is replaced."""
    if wrong := [p for p in body.parts if p not in PRESET_PARTS]:
        allowed = ", ".join(PRESET_PARTS)
        raise ProblemError([Problem(f"parts.{p}", f"a preset holds {allowed}; not {p}") for p in wrong])
    parse({"tag": "-", **body.parts})
    with writing() as session:
        preset = save_preset(session, body.name.strip(), body.parts)
        return PresetOut(id=preset.id, name=preset.name, parts=preset.parts)


@bp.delete("/presets/<int:preset_id>", responses={204: None, **NOT_FOUND})
def delete_preset(path: PresetPath) -> tuple[str, int]:
    """Take a preset away; starters made from it stay as they are."""
    with writing() as session:
        session.delete(found(session, Preset, path.preset_id))
    return "", 204
