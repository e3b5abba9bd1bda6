"""The report of design, build and proof, and the labels, as HTML for the screen and for the printer."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from volmek.core.circuit.build.plan import Plan
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.circuit.model.colours import school_of
from volmek.core.circuit.proof.rules import prove
from volmek.core.circuit.simulated import SimulatedStarter
from volmek.core.design import Design
from volmek.core.document.model import StarterDocument
from volmek.core.ranges.ranges import Ranges
from volmek.core.record.history import Series
from volmek.core.results.drawing import Drawing
from volmek.core.views.circuit import at_rest, rest_closed, style_of
from volmek.core.views.record import BuildView, RecordView
from volmek.files.sheet import Place, rendered

#: Drawings wider than this are printed across the page.
WIDE = 760.0


@dataclass(frozen=True)
class Papers:
    """Everything that the papers of a starter are made from."""

    document: StarterDocument
    design: Design
    live: SimulatedStarter
    plan: Plan
    build: BuildView
    record: RecordView
    series: list[Series]
    place: Place
    sealed: list[tuple[str, datetime, str]]
    ranges: Ranges | None = None


def _context(papers: Papers) -> dict[str, Any]:
    return {
        "build": papers.build,
        "record": papers.record,
        "series": papers.series,
        "sealed": papers.sealed,
        "ranges": papers.ranges,
        "restart": papers.live.circuit.restart,
    }


def drawings(papers: Papers) -> list[tuple[str, Drawing, bool]]:
    """Power and control circuit at rest, with whether they go across the page."""
    c, document = papers.live.circuit, papers.document
    style = style_of(document, None)
    school = school_of(document)
    closed = rest_closed(c)
    found = [("Power circuit", at_rest(draw_power(c, style, school), closed))]
    if c.lines:
        found.append(("Control circuit", at_rest(draw_control(c, style, school), closed)))
    return [(title, d, d.width > WIDE and d.width > d.height) for title, d in found]


def report_html(papers: Papers, *, paged: bool = False) -> str:
    """The report: plate, design, working, drawings, wire list, tests, findings, cautions, signatures."""
    c = papers.live.circuit
    proofs = prove(c, papers.live.simulator.engine) if c.loads else []
    return rendered(
        "report.html",
        papers.document,
        papers.design,
        papers.place,
        paged=paged,
        drawings=drawings(papers),
        proofs=proofs,
        **_context(papers),
    )


def labels_html(
    document: StarterDocument, design: Design, place: Place, *, restart: str, open_points: int, paged: bool = False
) -> str:
    """Door label, and a label for each device with its settings.

    Parameters
    ----------
    restart : what the circuit does when power returns
    open_points : how many there are
    paged : for a printer, with page rules
    """
    return rendered("labels.html", document, design, place, paged=paged, restart=restart, open_points=open_points)
