"""The settings sheet of one starter: HTML for the screen, PDF for the panel door."""

from base64 import b64encode
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from typing import TYPE_CHECKING, Any

from markupsafe import Markup

from volmek.core.design import Design
from volmek.core.devices.said import needs_of, picked_of, settings_as_read
from volmek.core.document.model import StarterDocument
from volmek.core.ranges.ranges import Ranges
from volmek.core.results.figures import as_read
from volmek.core.results.sheets import Sheet
from volmek.core.standards.wording import in_practice
from volmek.core.symbols import symbols
from volmek.files.printer import PRINTER, TEMPLATES
from volmek.files.svg import sheet_svg, to_svg

if TYPE_CHECKING:
    from jinja2 import Environment

LABELS = {
    "rated_power_kw": ("Rated power", "kW"),
    "rated_power_hp": ("Rated power", "hp"),
    "rated_power_ps": ("Rated power", "PS"),
    "rated_voltage_v": ("Voltage", "V"),
    "rated_voltage_delta_v": ("Voltage, delta", "V"),
    "rated_voltage_star_v": ("Voltage, star", "V"),
    "rated_current_a": ("Current", "A"),
    "rated_current_delta_a": ("Current, delta", "A"),
    "rated_current_star_a": ("Current, star", "A"),
    "frequency_hz": ("Frequency", "Hz"),
    "rated_speed_rpm": ("Speed", "rpm"),
    "power_factor": ("Power factor", ""),
    "efficiency_pct": ("Efficiency", "%"),
    "efficiency_class": ("Efficiency class", ""),
    "locked_rotor_current_ratio": ("Ia/In", ""),
    "code_letter": ("Code letter", ""),
    "service_factor": ("Service factor", ""),
    "permitted_stall_time_s": ("Permitted stall time", "s"),
}


@dataclass(frozen=True, slots=True)
class Place:
    """Whose sheet it is: job, board, state of the document."""

    job: str
    board: str
    version: int
    saved: datetime


@cache
def _environment() -> "Environment":
    from jinja2 import Environment, FileSystemLoader, StrictUndefined  # here, since a server starts without it

    return Environment(
        loader=FileSystemLoader(TEMPLATES),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )


@cache
def _fonts(paged: bool) -> list[tuple[str, int, str]]:
    """Family, weight and address of the fonts: for the screen inside the paper, for the printer beside the template."""
    faces = (
        ("Sheet Text", "next", 400),
        ("Sheet Text", "next", 700),
        ("Sheet Figures", "mono", 400),
        ("Sheet Figures", "mono", 600),
    )
    found = []
    for family, kind, weight in faces:
        name = f"fonts/atkinson-hyperlegible-{kind}-latin-{weight}-normal.woff2"
        inside = b64encode((TEMPLATES / name).read_bytes()).decode()
        found.append((family, weight, name if paged else f"data:font/woff2;base64,{inside}"))
    return found


def rendered(
    template: str, document: StarterDocument, design: Design, place: Place, *, paged: bool, **more: Any
) -> str:
    """A paper of a starter as HTML.

    Parameters
    ----------
    template : which paper
    document, design : the starter
    place : job, board and state
    paged : for a printer, with page rules
    more : what only this paper shows
    """
    plate = [
        (in_practice(label, document.practice), f"{value:g}" if isinstance(value, float) else str(value), unit)
        for name, (label, unit) in LABELS.items()
        if (value := getattr(document.motor, name)) is not None
    ]
    context: dict[str, Any] = {
        "document": document,
        "design": design,
        "place": place,
        "plate": plate,
        "paged": paged,
        "fonts": _fonts(paged),
        "symbols": symbols(),
        "picture": lambda drawing, scale=1.0: Markup(to_svg(drawing, scale)),
        "settings_of": settings_as_read,
        "needs_of": needs_of,
        "picked_of": picked_of,
        "as_read": as_read,
        "say": lambda words: in_practice(words, document.practice),
    }
    return _environment().get_template(template).render(context | more)


def sheet_html(
    document: StarterDocument,
    design: Design,
    place: Place,
    *,
    paged: bool = False,
    points: Sequence[str] = (),
    ranges: Ranges | None = None,
) -> str:
    """The settings sheet as HTML.

    Parameters
    ----------
    document, design : the starter
    place : job, board and state
    paged : for a printer, with page rules
    points : what is still open
    ranges : how sure it is; left out where nobody asked
    """
    typical = [f for f in design.figures.values() if f.typical and f.field and not f.inputs]
    return rendered("sheet.html", document, design, place, paged=paged, typical=typical, points=points, ranges=ranges)


def sheet_picture(sheet: Sheet, *, paged: bool, grey: bool = False) -> Markup:
    """A sheet as a picture in a page: for the printer one that it can tag, for the screen one that takes the page's fonts."""
    if not paged:
        return Markup(sheet_svg(sheet, grey=grey))
    address = f"data:image/svg+xml;base64,{b64encode(sheet_svg(sheet, grey=grey).encode()).decode()}"
    return Markup('<img src="{}" alt="{}">').format(address, sheet.description)


def sheets_html(sheets: Sequence[Sheet], tag: str, *, paged: bool = False) -> str:
    """Circuit diagrams as HTML: one page a sheet, each with its bookmark and its sentence.

    Parameters
    ----------
    sheets : of one starter, all on the same paper
    tag : of the starter
    paged : for the printer, with pictures that it tags; on a screen the sheets are as wide as the window
    """
    template = _environment().get_template("sheets.html")
    pictures = [(sheet, sheet_picture(sheet, paged=paged)) for sheet in sheets]
    return template.render(pictures=pictures, tag=tag, paper=sheets[0].paper, paged=paged, fonts=_fonts(paged))


def sheet_pdf(html: str, look: Callable[[], None] = lambda: None) -> bytes:
    """A sheet as PDF, laid out in a process of its own; nothing outside the package is read.

    Parameters
    ----------
    html : the paper
    look : called again and again meanwhile; what it raises ends the print

    Raises
    ------
    OSError : the system library that lays out text is missing, or the printing process has ended.
    """
    return PRINTER.pdf(html, look)
