"""The circuit diagrams of a starter on sheets of paper: drawn to one frame, cut where a sheet is full, with references across."""

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from volmek.core.circuit.drawing.control import ControlPen
from volmek.core.circuit.drawing.feed import COLUMN, LEFT, RUNG, STEP, TOP
from volmek.core.circuit.drawing.feed import ROW as LEVEL
from volmek.core.circuit.drawing.layout import lay_out
from volmek.core.circuit.drawing.pen import Cut, Ink, Pen, Spot, Style
from volmek.core.circuit.drawing.power import ROW, PowerPen
from volmek.core.circuit.drawing.power import TOP as SUPPLY
from volmek.core.circuit.model.colours import Colours
from volmek.core.circuit.model.netlist import Circuit, Contact, makes_at_rest
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.results.drawing import Shape, line, moved, text
from volmek.core.results.sheets import (
    Column,
    Mark,
    Paper,
    Sheet,
    Symbol,
    TitleBlock,
    fitted,
    frame,
    table,
    width_of,
    wrapped,
)

#: A unit of the screen's drawing on paper, the largest that fits; below the last one nobody can read it.
SCALES = (1.5, 1.35, 1.2, 1.1, 1.0, 0.9, 0.8)
#: Room behind the coils of a ladder, under the coils of columns, and beside the devices of the power circuit.
BEHIND, FUNCTION, ROOM = 176.0, 20.0, 36.0
PITCH, PITCHES_BEHIND = 10.0, 5


@dataclass(frozen=True, slots=True)
class Said:
    """Words beside a device.

    Attributes
    ----------
    device : what it is
    rating, setting : in the list
    beside : the same in short lines, beside its poles
    coil : beside its coil
    """

    device: str
    rating: str = ""
    setting: str = ""
    beside: tuple[str, ...] = ()
    coil: tuple[str, ...] = ()


NOTHING = Said("")


@dataclass(frozen=True, slots=True)
class _Drawn:
    """A drawing on its sheet."""

    sheet: Sheet
    pen: Pen
    left: float
    top: float
    scale: float
    lines: tuple[float, ...] = ()

    def at(self, x: float, y: float) -> tuple[float, float]:
        """A point of the drawing on the sheet."""
        return self.left + self.scale * x, self.top + self.scale * y


class _Set:
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
        self.say = say
        self.c, self.style, self.paper, self.said = circuit, style, paper, said
        self.colours = Colours(circuit, school)
        self.sheets: list[Sheet] = []
        self.drawn: list[_Drawn] = []
        self.seats: dict[str, list[tuple[_Drawn, Spot]]] = defaultdict(list)

    @property
    def columns(self) -> bool:
        return self.style == "columns"

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
        high = drawing.height + 24 + PITCH * len(self._leaving())
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
        deep = FUNCTION + PITCH * self._longest()
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
        drawn = _Drawn(sheet, pen, left + scale * margin, top, scale, tuple(lines))
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
            sheet.put("REFERENCES", text(left + 4, drawn.at(0, y)[1] + 4, self._line(sheet, k), 10 * scale, "start"))

    # -- references ------------------------------------------------------------------------------------------------------

    @staticmethod
    def _line(sheet: Sheet, k: int) -> str:
        return f"{sheet.number}{k + 1:02d}"

    def reference(self, drawn: _Drawn, x: float, y: float) -> str:
        """Reference to a point from another sheet: sheet and zone, or the number of the line in a ladder."""
        if drawn.lines:
            nearest = min(range(len(drawn.lines)), key=lambda k: abs(drawn.lines[k] - y))
            return self._line(drawn.sheet, nearest)
        return f"/{drawn.sheet.number}.{self.paper.zone(*drawn.at(x, y))}"

    def _seat(self, part: str) -> str:
        """Reference of a part, empty where it is not drawn."""
        return next((self.reference(d, s.x, s.y) for d, s in self.seats.get(part, ())), "")

    def _beside(self, drawn: _Drawn, spot: Spot, words: Sequence[str], layer: str) -> None:
        x, y = spot.beside
        for k, said in enumerate(words):
            at = drawn.at(x, y + spot.pitch * k)
            drawn.sheet.put(layer, text(*at, said, 8 * drawn.scale, spot.anchor))

    def refer(self) -> None:
        """References of every device, words beside it, and of every wire that continues on another sheet."""
        for part, seats in list(self.seats.items()):
            for drawn, spot in seats:
                if part.startswith("feed:"):
                    self._beside(drawn, spot, [self._seat(f"device:{spot.tag}")], "REFERENCES")
                elif part.startswith("load:"):
                    self._coil(drawn, spot)
                elif part.startswith("contact:"):
                    self._beside(drawn, spot, [self._home(part, spot.tag)], "REFERENCES")
                elif spot.worded:
                    self._device(drawn, spot)
        self._across()
        self._leave()

    def _home(self, part: str, tag: str) -> str:
        """Place of the rest of a contact's device: its coil, else its poles, else its other contacts."""
        for main in (f"load:{tag}", f"device:{tag}"):
            if found := self._seat(main):
                return found
        rest = [p for p in self.seats if p.startswith(f"contact:{tag}:") and p != part]
        return " ".join(dict.fromkeys(self._seat(p) for p in rest))

    def _contacts(self, tag: str) -> list[tuple[str, bool]]:
        """Contacts of a device with where they are, each with whether it opens."""
        found = []
        for c in self.c.contacts:
            if c.device == tag and c.side == "control" and (at := self._seat(f"contact:{c.name}")):
                found.append((f"{c.a}-{c.b} {at}", not makes_at_rest(c)))
        return found

    def _poles(self, tag: str) -> str:
        poles: list[Contact] = [c for c in self.c.contacts if c.device == tag and c.side == "power"]
        at = self._seat(f"device:{tag}")
        return f"{' '.join(f'{c.a}-{c.b}' for c in poles)} {at}" if poles and at else ""

    def _listed(self, tag: str) -> list[tuple[str, bool]]:
        poles = self._poles(tag)
        return [*([(poles, False)] if poles else []), *self._contacts(tag)]

    def _longest(self) -> int:
        """Lines of the longest list under a coil."""
        loads = {x.device for x in self.c.loads}
        per = [sum(c.device == d and c.side == "control" for c in self.c.contacts) + 1 for d in loads]
        return max(per, default=1)

    def _coil(self, drawn: _Drawn, spot: Spot) -> None:
        """Function of a load, its setting, and where its contacts are."""
        tag, put = spot.tag, drawn.sheet.put
        said, size = self.said.get(tag, NOTHING), 8 * drawn.scale
        self._beside(drawn, spot, said.coil, "TEXT")
        x, y = spot.foot
        anchor = "middle" if self.columns else "start"
        meaning = self.say(self.c.meanings.get(tag, ""))
        words = wrapped(f"{said.device}{f', {meaning}' if meaning else ''}", COLUMN - 4 if self.columns else BEHIND, 8)[
            :2
        ]
        for k, w in enumerate(words):
            put("TEXT", text(*drawn.at(x, y + PITCH * k), w, size, "middle" if anchor == "middle" else "start"))
        for k, (w, opens) in enumerate(self._listed(tag)):
            column, row = (0, k + 2) if self.columns else (k // PITCHES_BEHIND, k % PITCHES_BEHIND + len(words))
            at = drawn.at(x + 84 * column, y + PITCH * row)
            put("REFERENCES", text(*at, w, size, "middle" if anchor == "middle" else "start"))
            if opens and not self.columns:  # a break contact is underlined in the list of a ladder
                put("REFERENCES", line(at[0], at[1] + 1.5, at[0] + width_of(w, size), at[1] + 1.5, weight="hair"))

    def _device(self, drawn: _Drawn, spot: Spot) -> None:
        """Rating and setting of a device of the power circuit, and where its coil and its contacts are."""
        tag = spot.tag
        beside = self.said.get(tag, NOTHING).beside
        self._beside(drawn, spot, beside, "TEXT")
        coil = self._seat(f"load:{tag}")
        where = [coil] if coil else [at.partition(" ")[2] for at, _ in self._contacts(tag)]
        below = replace(spot, beside=(spot.beside[0], spot.beside[1] + spot.pitch * len(beside)))
        self._beside(drawn, below, list(dict.fromkeys(where))[:2], "REFERENCES")

    def _across(self) -> None:
        """Wires that go on on another sheet, each end with where the other one is."""
        ends: dict[str, list[tuple[_Drawn, Cut]]] = defaultdict(list)
        for drawn in self.drawn:
            for cut in drawn.pen.cuts:
                ends[cut.wire].append((drawn, cut))
        for found in ends.values():
            for (drawn, cut), (other, far) in zip(found[::2], found[1::2], strict=True):
                for here, mine, there, his in ((drawn, cut, other, far), (other, far, drawn, cut)):
                    words = self.reference(there, his.x, his.y)
                    here.sheet.put("REFERENCES", text(*here.at(*mine.at), words, 8 * here.scale, mine.anchor))

    def _leaving(self) -> list[tuple[str, str]]:
        """Terminals of the power circuit that feed the control circuit, with their wires."""
        own = {x for x in self.c.devices if any(c.device == x and c.side == "power" for c in self.c.contacts)}
        found = dict.fromkeys(
            (w.a, w.number)
            for w in self.c.feed
            if w.a.partition(":")[0] in own and w.b.partition(":")[0] != self.c.monitor
        )
        return list(found)

    def _leave(self) -> None:
        """On the power sheet: which terminals go on to the control circuit, and where it takes them."""
        drawn = self.drawn[0]
        _, _, _, height = self.paper.area
        for k, (terminal, number) in enumerate(self._leaving()):
            at = self._seat(f"feed:{terminal}")
            y = self.paper.area[1] + height - PITCH * drawn.scale * (len(self._leaving()) - k - 1) - 4
            words = f"{terminal}, wire {number}, to the control circuit {at}".rstrip()
            drawn.sheet.put("REFERENCES", text(drawn.left, y, words, 9 * drawn.scale, "start"))

    # -- lists -----------------------------------------------------------------------------------------------------------

    def devices(self) -> None:
        """The list of devices, with where each is drawn."""
        rows = [(tag, s.device, s.rating, s.setting, self._where(tag)) for tag, s in self.said.items()]
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

    def _where(self, tag: str) -> str:
        parts = [f"load:{tag}", f"device:{tag}"]
        found = [at for p in parts if (at := self._seat(p))]
        rest = [self._seat(p) for p in self.seats if p.startswith(f"contact:{tag}:")]
        return " ".join(dict.fromkeys(found or rest))

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
