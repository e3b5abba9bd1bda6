"""Stages of sizing: methods, start, lost phase, curves."""

import io
from typing import Annotated

from flask import Response, current_app, send_file
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from volmek.core.document.model import Override, StarterType
from volmek.core.methods.choose import Offer, offers
from volmek.core.ranges.ranges import Ranges
from volmek.core.views.choice import ChoiceView, choice_view
from volmek.core.views.compare import Compared, compare
from volmek.core.views.phase_loss import PhaseLossView, Unbalance, phase_loss_view, unbalance
from volmek.core.views.start import StartView, start_view
from volmek.core.views.time_current import TimeCurrentView, points_csv, time_current_view
from volmek.files.svg import to_svg
from volmek.web.common import CSV, REFUSED, SVG, looked_at, operation_id
from volmek.web.schemas import Output, ProblemsOut, StarterPath
from volmek.web.worker import RangeWorker

bp = APIBlueprint("stages", __name__, url_prefix="/api", operation_id_callback=operation_id)


class OffersOut(Output):
    """Every starting method with its verdict for one starter."""

    offers: list[Offer]


class CompareOut(Output):
    """Methods side by side."""

    methods: list[Compared]


class CompareQuery(BaseModel):
    """Methods to compare."""

    method: list[StarterType] = Field(min_length=1, max_length=3)


class StartOut(Output):
    """Curves of a start."""

    start: StartView


class PhaseFailureOut(Output):
    """A lost phase."""

    sheet: PhaseLossView


class TimeCurrentOut(Output):
    """A time-current sheet."""

    sheet: TimeCurrentView


class RangesOut(Output):
    """Certainty of a design; nothing when a newer question of the same starter came meanwhile."""

    ranges: Ranges | None


class ChoiceIn(BaseModel):
    """A choice against the computed device, to be tried."""

    model_config = ConfigDict(extra="forbid")

    choice: Override


class ChoiceOut(Output):
    """Price of the choice."""

    tried: ChoiceView


class UnbalanceIn(BaseModel):
    """Three measured line voltages, and line currents if there are any."""

    model_config = ConfigDict(extra="forbid")

    voltages_v: list[Annotated[float, Field(gt=0, le=1000)]] = Field(min_length=3, max_length=3)
    currents_a: list[Annotated[float, Field(gt=0, le=10000)]] | None = Field(default=None, min_length=3, max_length=3)


class UnbalanceOut(Output):
    """Result for the readings."""

    result: Unbalance


@bp.get("/starters/<int:starter_id>/ranges", responses={200: RangesOut, **REFUSED})
def get_ranges(path: StarterPath) -> RangesOut:
    """The design over the spread of everything that nobody typed, and what to find out next."""
    document, catalogue, _ = looked_at(path.starter_id)
    worker: RangeWorker = current_app.extensions["ranges"]
    return RangesOut.model_construct(ranges=worker.ask(path.starter_id, document, catalogue))


@bp.get("/starters/<int:starter_id>/methods", responses={200: OffersOut, **REFUSED})
def get_methods(path: StarterPath) -> OffersOut:
    """Every starting method with a verdict for this plate, supply and load."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    return OffersOut.model_construct(offers=offers(document, catalogue))


@bp.get("/starters/<int:starter_id>/compare", responses={200: CompareOut, **REFUSED})
def compare_methods(path: StarterPath, query: CompareQuery) -> CompareOut:
    """Up to three starting methods side by side."""
    document, catalogue, _ = looked_at(path.starter_id, unchanged=False)
    return CompareOut.model_construct(methods=compare(document, catalogue, query.method))


@bp.get("/starters/<int:starter_id>/start", responses={200: StartOut, **REFUSED})
def get_start(path: StarterPath) -> StartOut:
    """Curves of the start: run-up, star time, supply dip."""
    document, catalogue, _ = looked_at(path.starter_id)
    return StartOut.model_construct(start=start_view(document, catalogue))


@bp.get("/starters/<int:starter_id>/phase-failure", responses={200: PhaseFailureOut, **REFUSED})
def get_phase_failure(path: StarterPath) -> PhaseFailureOut:
    """Effect of a lost phase on this starter at every load, and the settings of a monitor for it."""
    document, catalogue, _ = looked_at(path.starter_id)
    return PhaseFailureOut.model_construct(sheet=phase_loss_view(document, catalogue))


@bp.get("/starters/<int:starter_id>/time-current", responses={200: TimeCurrentOut, **REFUSED})
def get_time_current(path: StarterPath) -> TimeCurrentOut:
    """The time-current sheet: every curve, limit and crossing."""
    document, catalogue, _ = looked_at(path.starter_id)
    return TimeCurrentOut.model_construct(sheet=time_current_view(document, catalogue))


@bp.get("/starters/<int:starter_id>/time-current.csv", responses={200: CSV, **REFUSED})
def time_current_points(path: StarterPath) -> Response:
    """The points of its curves as CSV."""
    document, catalogue, kept = looked_at(path.starter_id)
    data = points_csv(time_current_view(document, catalogue)).encode()
    return send_file(
        io.BytesIO(data), mimetype="text/csv", download_name=f"{kept.tag} time-current.csv", as_attachment=True
    )


@bp.get("/starters/<int:starter_id>/time-current.svg", responses={200: SVG, **REFUSED})
def time_current_picture(path: StarterPath) -> Response:
    """The sheet as SVG."""
    document, catalogue, kept = looked_at(path.starter_id)
    data = to_svg(time_current_view(document, catalogue).drawing).encode()
    return send_file(
        io.BytesIO(data), mimetype="image/svg+xml", download_name=f"{kept.tag} time-current.svg", as_attachment=True
    )


@bp.post("/starters/<int:starter_id>/choice", responses={200: ChoiceOut, **REFUSED})
def try_choice(path: StarterPath, body: ChoiceIn) -> ChoiceOut:
    """Changes by another device or setting; nothing is saved."""
    document, catalogue, _ = looked_at(path.starter_id)
    return ChoiceOut.model_construct(tried=choice_view(document, catalogue, body.choice))


@bp.post("/unbalance", responses={200: UnbalanceOut, 422: ProblemsOut})
def judge_unbalance(body: UnbalanceIn) -> UnbalanceOut:
    """Three measured voltages, and currents if there are any, against each other."""
    return UnbalanceOut.model_construct(result=unbalance(body.voltages_v, body.currents_a))
