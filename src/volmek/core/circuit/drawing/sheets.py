"""The circuit diagrams of a starter on sheets of paper: drawn to one frame, cut where a sheet is full, with references across."""

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence

from volmek.core.circuit.drawing.control import ControlPen
from volmek.core.circuit.drawing.feed import COLUMN, LEFT, RUNG, STEP, TOP
from volmek.core.circuit.drawing.feed import ROW as LEVEL
from volmek.core.circuit.drawing.layout import lay_out
from volmek.core.circuit.drawing.pen import Ink, Pen, Style
from volmek.core.circuit.drawing.power import ROW, PowerPen
from volmek.core.circuit.drawing.power import TOP as SUPPLY
from volmek.core.circuit.drawing.references import BEHIND, PITCH, Drawn, References, Said
from volmek.core.circuit.model.colours import Colours
from volmek.core.circuit.model.netlist import Circuit, makes_at_rest
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.results.drawing import Shape, moved, text
from volmek.core.results.sheets import Column, Mark, Paper, Sheet, Symbol, TitleBlock, fitted, frame, table

#: A unit of the screen's drawing on paper, the largest that fits; below the last one nobody can read it.
SCALES = (1.5, 1.35, 1.2, 1.1, 1.0, 0.9, 0.8)
#: Room under the coils of columns, and beside the devices of the power circuit.
FUNCTION, ROOM = 20.0, 36.0


class _Set(References):
    """Draws all sheets of one circuit."""

    def __init__(
        self,
        circuit: Circuit,
        style: Style,
        school: str,
        paper: Paper,
        said: Mapping[str, Said],
        say: Callable[[str], str],
    ) -> None:
        super().__init__(circuit, style, paper, said, say)
        self.colours = Colours(circuit, school)
        self.sheets: list[Sheet] = []

    def sheet(self, title: str, description: str) -> Sheet:
        """The next sheet."""
        self.sheets.append(Sheet(len(self.sheets) + 1, title, description, self.paper))
        return self.sheets[-1]

    # -- what is drawn ---------------------------------------------------------------------------------------------------

    def power(self) -> None:
        """The power circuit, whole on one sheet."""
        pen = PowerPen(self.c, self.style, self.colours, ROOM)
        drawing = pen.paint()
        margin = 0.0 if self.columns else 44.0
        high = drawing.height + 24 + PITCH * len(self.leaving())
        scale = self._scales("The power circuit", drawing.width + margin, high)[0]
        sheet = self.sheet("Power circuit", drawing.description)
        lines = tuple(SUPPLY + ROW * k for k in range(pen.grid.levels + 1)) if not self.columns else ()
        self._put(sheet, pen, scale, margin, lines)

    def control(self) -> None:
        """The control circuit, its paths on as many sheets as they need."""
        if not self.c.lines:
            return
        _, _, width, height = self.paper.area
        margin = 0.0 if self.columns else 40.0
        deep = FUNCTION + PITCH * self.longest_list()
        room = (
            (height - SCALES[-1] * (TOP + 24 + deep)) / LEVEL
            if self.columns
            else (width - SCALES[-1] * (margin + LEFT + 24 + BEHIND)) / STEP
        )
        whole = ControlPen(self.c, self.style, self.colours, grid=lay_out(self.c, int(room / SCALES[-1])))
        paths = whole.grid.paths
        along = whole.extent[1] + deep if self.columns else margin + whole.extent[0] + BEHIND
        fits = self._scales("The control circuit", *((0.0, along) if self.columns else (along, 0.0)))
        head, step = (whole.left + 80, COLUMN) if self.columns else (whole.top + 50, RUNG)
        each = {x: int(((width if self.columns else height) / x - head) / step) for x in fits}
        count = min((-(-paths // n) for n in each.values() if n > 0), default=0)
        if not count:
            raise self._too_small("The control circuit")
        scale = max(x for x, n in each.items() if n > 0 and -(-paths // n) == count)
        size = -(-paths // count)
        windows = [range(a, min(a + size, paths)) for a in range(0, paths, size)]
        for k, window in enumerate(windows):
            pen = ControlPen(self.c, self.style, self.colours, window, whole.grid)
            pen.draw()
            title = "Control circuit" if len(windows) == 1 else f"Control circuit, part {k + 1} of {len(windows)}"
            loads = ", ".join(p.element.device for p in pen.placed if p.element.load)
            sheet = self.sheet(title, f"{title}: paths {window.start + 1} to {window.stop}, loads {loads or 'none'}")
            rungs = tuple(pen.at(p, 0)[1] for p in window) if not self.columns else ()
            self._put(sheet, pen, scale, margin, rungs)

    def _scales(self, what: str, width: float, height: float) -> list[float]:
        """Scales at which a drawing fits the paper, the largest first."""
        _, _, wide, high = self.paper.area
        found = [x for x in SCALES if x * width <= wide and x * height <= high]
        if not found:
            raise self._too_small(what)
        return found

    def _too_small(self, what: str) -> ProblemError:
        larger = "A3" if not self.paper.backwards else "tabloid"
        return ProblemError([Problem("paper", f"{what} is too large for {self.paper.title}: choose {larger}.")])

    def _put(self, sheet: Sheet, pen: Pen, scale: float, margin: float, lines: Sequence[float]) -> None:
        """Drawing of a pen put on its sheet: symbols as blocks, the rest as marks on layers."""
        left, top, _, _ = self.paper.area
        drawn = Drawn(sheet, pen, left + scale * margin, top, scale, tuple(lines))
        self.drawn.append(drawn)
        for spot in pen.spots:
            self.seats[spot.part].append((drawn, spot))
        inside = {k: g for g in pen.groups for k in range(g.first, g.last)}
        shut = {f"contact:{x.name}" for x in self.c.contacts if not makes_at_rest(x)}
        shapes: dict[int, list[Shape]] = defaultdict(list)
        for k, m in enumerate(pen.marks):
            if m.when and (m.when == "closed") != (m.part in shut):
                continue
            if k in inside:
                g = inside[k]
                shapes[g.first].append(moved(m.shape, -g.x, -g.y))
            else:
                sheet.marks.append(Mark(moved(m.shape, drawn.left, drawn.top, scale), _layer(m), m.conductor))
        for g in pen.groups:
            at = drawn.at(g.x, g.y)
            sheet.symbols.append(Symbol(g.name, g.tag, g.part, *at, scale, tuple(shapes[g.first])))
        for k, y in enumerate(lines):
            sheet.put(
                "REFERENCES", text(left + 4, drawn.at(0, y)[1] + 4, self.line_number(sheet, k), 10 * scale, "start")
            )

    # -- lists -----------------------------------------------------------------------------------------------------------

    def devices(self) -> None:
        """The list of devices, with where each is drawn."""
        rows = [(tag, s.device, s.rating, s.setting, self.where(tag)) for tag, s in self.said.items()]
        self._table(
            "Device list",
            (
                Column("Tag", 7),
                Column("Device", 24),
                Column("Type and rating", 30),
                Column("Set", 25),
                Column("Sheet", 14),
            ),
            rows,
        )

    def _table(self, title: str, columns: Sequence[Column], rows: Sequence[Sequence[str]]) -> None:
        left, top, width, height = self.paper.area
        parts = table(columns, rows, left, top, width, height)
        for k, part in enumerate(parts):
            name = title if len(parts) == 1 else f"{title}, part {k + 1} of {len(parts)}"
            self.sheet(name, f"{name}: {said_of(rows)}").put("TABLE", *part)


def said_of(rows: Sequence[Sequence[str]]) -> str:
    """Rows of a table as one sentence, for those who cannot see it."""
    return "; ".join(", ".join(cell for cell in row if cell) for row in rows)


def _layer(m: Ink) -> str:
    """Layer of a mark that is no symbol."""
    if m.shape.kind == "text":
        kind = m.part.partition(":")[0]
        if not kind and m.shape.text.replace("-", "").isalnum() and len(m.shape.text) <= 3 and m.shape.size <= 9:
            return "TERMINALS"
        return {"wire": "WIRE_NUMBERS", "label": "TAGS"}.get(kind, "TEXT")
    if m.part == "wire:PE":
        return "PROTECTIVE"
    return "WIRES" if m.part.startswith("wire:") or m.shape.filled else "LINKS"


def circuit_sheets(
    circuit: Circuit,
    style: Style,
    school: str,
    paper: Paper,
    head: TitleBlock,
    said: Mapping[str, Said],
    facts: Sequence[tuple[str, str]],
    say: Callable[[str], str] = str,
) -> list[Sheet]:
    """The set of sheets of a circuit: title sheet, power circuit, control circuit, device list.

    Parameters
    ----------
    circuit : that is drawn
    style : ``columns`` with IEC symbols, ``ladder`` with North American ones and numbered lines
    school : of the wire colours
    paper : of every sheet
    head : words of the title block
    said : of every device, in the order of the device list
    facts : what and value, for the title sheet
    say : puts what the circuit says into the words of a practice

    Raises
    ------
    ProblemError : the circuit is too large for the paper.

    References
    ----------
    IEC 61082-1 (references, zones), ISO 5457, ISO 7200; NFPA 79 (numbered lines, break contacts underlined in the list of a coil).
    """
    it = _Set(circuit, style, school, paper, said, say)
    title = it.sheet("Title sheet", "")
    it.power()
    it.control()
    it.refer()
    it.devices()
    _title_sheet(it, title, head, facts)
    of, legend = len(it.sheets), [(colour, say(what)) for colour, what in it.colours.legend()]
    drawings: set[int] = {d.sheet.number for d in it.drawn}
    for sheet in it.sheets:
        frame(sheet, head, of, legend if sheet.number in drawings else ())
    return it.sheets


def _title_sheet(it: _Set, sheet: Sheet, head: TitleBlock, facts: Sequence[tuple[str, str]]) -> None:
    """Title sheet: contents of the set, and the starter's data."""
    left, top, width, height = it.paper.area
    contents = [(str(s.number), s.title) for s in it.sheets]
    half = width * 0.36
    fill: list[tuple[Sequence[Column], Sequence[Sequence[str]], float, float]] = [
        ((Column("Sheet", 14), Column("Contents", 60)), contents, left, half),
        ((Column("Starter", 26), Column("", 74)), facts, left + half + 24, width - half - 24),
    ]
    sheet.description = f"Title sheet: {said_of(facts)}. Contents: {said_of(contents)}"
    size = 14.0 if width > 1300 else 11.0
    words = " · ".join(x for x in (head.tag, head.service) if x)
    sheet.put(
        "TITLE",
        *fitted(words, left, top, width, 44, 30.0),
        text(left, top + 62, f"{head.board}, {head.job}", 13, "start"),
    )
    top, height = top + 84, height - 84
    for columns, rows, x, wide in fill:
        parts = table(columns, rows, x, top, wide, height, size)
        if len(parts) > 1:
            raise ProblemError([Problem("paper", f"The title sheet is too long for {it.paper.title}.")])
        sheet.put("TABLE", *parts[0])
