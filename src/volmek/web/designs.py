"""The design of a starter as the page takes it."""

from dataclasses import dataclass, replace
from time import perf_counter
from typing import Any

from flask import g, has_app_context
from flask_openapi3.blueprint import APIBlueprint

from volmek.core.catalogue.catalogue import Catalogue, reference_catalogue
from volmek.core.coordination.coordination import Coordination
from volmek.core.design import ControlResult, Currents, Design, StartResult, SupplyResult, in_use
from volmek.core.devices.device import Device, NoneFits
from volmek.core.devices.settings import known
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import StarterDocument, parse
from volmek.core.lineup import LineUpItem
from volmek.core.results.drawing import Drawing
from volmek.core.results.figures import Figure
from volmek.core.results.findings import Finding
from volmek.core.sizing import size
from volmek.core.standards.wording import in_practice
from volmek.core.views.quick import Answer, answer_of
from volmek.store.catalogues import kept_text
from volmek.store.engine import DAMAGED
from volmek.web.common import REFUSED, looked_at, operation_id, problems_out
from volmek.web.schemas import Output, ProblemOut, ProblemsOut, StarterCreate, StarterPath

bp = APIBlueprint("designs", __name__, url_prefix="/api", operation_id_callback=operation_id)


Computed = tuple[Design | None, list[ProblemOut]]


@dataclass(slots=True)
class Reading:
    """A figure as it is read on the page; its working is asked for when somebody opens it."""

    label: str
    text: str
    unit: str
    typical: bool


#: Figures that the page shows beside those of the devices and the typical values in its fields.
ON_THE_PLATE = (
    "plate_current_a",
    "calculated_current_a",
    "calculated_difference_pct",
    "table_current_a",
    "table_difference_pct",
    "permitted_current_a",
    "locked_rotor_current_a",
    "inrush_peak_a",
    "connection",
)


#: A fact of a device as files and pages carry it.
Fact = float | int | str | bool


@dataclass(slots=True)
class DeviceOut:
    """A device of a design: of its facts those that are known, of its figures the ids."""

    designation: str
    role: str
    kind: str
    label: str
    required: dict[str, Fact]
    selected: dict[str, Fact]
    settings: dict[str, Fact]
    figures: tuple[str, ...]
    choice: str
    override_reason: str
    overridden: tuple[str, ...]
    branch: bool
    none_fits: NoneFits | None


@dataclass(slots=True)
class DesignBrief:
    """Design as shown at every keystroke."""

    method: str
    connection: str
    currents: Currents
    supply: SupplyResult
    control: ControlResult
    devices: list[DeviceOut]
    findings: list[Finding]
    figures: dict[str, Reading]
    line_up: list[LineUpItem]
    links: str | None
    start: StartResult
    overload_band: Drawing
    coordination: Coordination
    cautions: tuple[str, ...]
    offered: dict[str, tuple[str, ...]]
    answer: Answer


class FiguresOut(Output):
    """Every figure of a starter's design with its working."""

    figures: dict[str, Figure]


class DesignOut(Output):
    """A design that is not kept, in the words of ``volmek size --working``."""

    design: dict[str, Any]


def designed(document: StarterDocument, catalogue: Catalogue) -> Computed:
    """The design of a kept document, or what is missing for one.

    Raises
    ------
    ProblemError : something is wrong, not only missing.
    """
    start = perf_counter()
    try:
        computed = size(document, catalogue).design
        if has_app_context():
            g.design_ms = 1000 * (perf_counter() - start)
        return computed, []
    except ProblemError as error:
        if all(p.missing for p in error.problems):
            return None, problems_out(error.problems)
        raise


def devices_text(computed: Computed, catalogue: Catalogue, before: str = "{}") -> str:
    """Devices of a design, to be kept with it; its earlier ones while there is none."""
    return kept_text(in_use(computed[0], catalogue)) if computed[0] else before


def shown(document: dict[str, Any], catalogue: Catalogue) -> Computed:
    """The design of the saved document, or the problems against it, so that a page can always show it."""
    if DAMAGED in document:
        words = "the saved document is damaged: go back to an earlier state under History, or restore a backup"
        return None, problems_out([Problem("document", words)])
    try:
        return designed(parse(document), catalogue)
    except ProblemError as error:
        return None, problems_out(error.problems)


@bp.get("/starters/<int:starter_id>/figures", responses={200: FiguresOut, **REFUSED})
def get_figures(path: StarterPath) -> FiguresOut:
    """The working of every figure of a starter."""
    document, catalogue, _ = looked_at(path.starter_id)
    figures = size(document, catalogue).design.figures
    if document.practice == "nec":
        figures = {id: _in_words(f) for id, f in figures.items()}
    return FiguresOut.model_construct(figures=dict(figures))


def _in_words(f: Figure) -> Figure:
    """A figure in North American words."""
    said = [replace(x, reason=in_practice(x.reason, "nec")) for x in f.candidates]

    def say(text: str) -> str:
        return in_practice(text, "nec")

    return replace(
        f, candidates=tuple(said), label=say(f.label), rule=say(f.rule), note=say(f.note), school=say(f.school)
    )


@bp.post("/design", responses={200: DesignOut, 422: ProblemsOut})
def compute_design(body: StarterCreate) -> DesignOut:
    """Design a document without keeping it, from the shipped range."""
    return DesignOut.model_construct(design=size(body.document, reference_catalogue()).design.to_json(working=True))


def device_out(d: Device) -> DeviceOut:
    """A device of the core as the page takes it."""
    return DeviceOut(
        d.designation,
        d.role,
        d.kind,
        d.label,
        known(d.required),
        known(d.selected),
        known(d.settings),
        tuple(f.id for f in d.figures),
        d.choice.id,
        d.override_reason,
        d.overridden,
        d.branch,
        d.none_fits,
    )


def brief(d: Design) -> DesignBrief:
    """A design with the figures that the page shows, without their workings."""
    shown = {
        *ON_THE_PLATE,
        *(f.id for device in d.devices for f in device.figures),
        *(check.figure for check in d.coordination.checks),
    }
    figures = {
        id: Reading(in_practice(f.label, d.practice), f.text, f.unit, f.typical)
        for id, f in d.figures.items()
        if id in shown or (f.typical and f.field)
    }
    return DesignBrief(
        d.method,
        d.connection,
        d.currents,
        d.supply,
        d.control,
        [device_out(x) for x in d.devices],
        d.findings,
        figures,
        d.line_up,
        d.links,
        d.start,
        d.overload_band,
        d.coordination,
        d.cautions,
        dict(d.offered),
        answer_of(d),
    )
