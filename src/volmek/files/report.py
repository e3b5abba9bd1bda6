"""The report of design, build and proof, and the labels, as HTML for the screen and for the printer."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from markupsafe import Markup

from volmek.core.circuit.build.plan import Plan
from volmek.core.circuit.proof.rules import prove
from volmek.core.circuit.simulated import SimulatedStarter
from volmek.core.design import Design
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument
from volmek.core.ranges.ranges import Ranges
from volmek.core.record.history import Series
from volmek.core.results.sheets import Sheet
from volmek.core.views.record import BuildView, RecordView
from volmek.core.views.sheets import starter_sheets, title_block
from volmek.files.sheet import Place, rendered, sheet_picture


@dataclass(frozen=True)
class Papers:
    """Sources of the documents of a starter."""

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


def drawings(papers: Papers, *, paged: bool) -> list[tuple[Sheet, Markup]]:
    """The circuit diagrams on the small sheet of the practice, on the large one where that is too small; each with its picture."""
    document, place = papers.document, papers.place
    head = title_block(document, place.job, place.board, place.version, place.saved.strftime("%Y-%m-%d"))
    small, large = ("letter", "tabloid") if document.practice == "nec" else ("a4", "a3")
    try:
        sheets = starter_sheets(document, papers.live, head, paper=small)
    except ProblemError:
        sheets = starter_sheets(document, papers.live, head, paper=large)
    return [(s, sheet_picture(s, paged=paged, grey=True)) for s in sheets]


def report_html(papers: Papers, *, paged: bool = False) -> str:
    """The report: plate, design, working, drawings, wire list, tests, findings, cautions, signatures."""
    c = papers.live.circuit
    proofs = (
        prove(c, papers.live.simulator.engine, own=papers.document.own_rules, sim=papers.live.simulator)
        if c.loads
        else []
    )
    return rendered(
        "report.html",
        papers.document,
        papers.design,
        papers.place,
        paged=paged,
        drawings=drawings(papers, paged=paged),
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
