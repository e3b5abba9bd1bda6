"""The control circuit as a drawing: columns with IEC symbols, or ladder rungs with North American ones."""

from dataclasses import dataclass
from typing import Literal

from volmek.core.circuit.drawing.layout import Grid, Placed, lay_out
from volmek.core.circuit.drawing.symbols import ACTUATED, CROSSED, contact_iec, contact_na, cross, load_iec, load_na
from volmek.core.circuit.model.netlist import RETURN, Circuit
from volmek.core.results.drawing import Shape, circle, line, rect, text

Style = Literal["columns", "ladder"]
#: Steps of the grid, margins, and heights of the notes under the coils.
COLUMN, ROW, RUNG, STEP = 92.0, 58.0, 74.0, 84.0
TOP, LEFT, NOTE, LANE, FEED = 40.0, 56.0, 11.0, 8.0, 64.0
#: Colours of the conductors by school: lines, neutral, protective, control, control of direct current.
COLOURS = {
    "iec": ("brown", "black", "grey", "blue", "green-yellow", "red", "dark blue"),
    "north_american": ("black", "red", "blue", "white", "green", "red", "blue"),
    "red_yellow_blue": ("red", "yellow", "blue", "black", "green", "red", "dark blue"),
}


@dataclass(frozen=True, slots=True)
class Ink:
    """A shape and what it belongs to.

    Attributes
    ----------
    shape : what is painted
    part : ``wire:6``, ``contact:K1:13-14``, ``load:K1``, ``label:K1``; empty for what only explains
    when : ``open``, ``closed`` for the two forms of a contact, empty for what is always there
    conductor : colour of a wire in the school chosen
    at : terminal that a piece of wire hangs on, so that the parts of a broken wire are told apart
    """

    shape: Shape
    part: str = ""
    when: Literal["", "open", "closed"] = ""
    conductor: str = ""
    at: str = ""


@dataclass(frozen=True, slots=True)
class Place:
    """Where something is found: path number and the middle of its symbol."""

    part: str
    path: int
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class CircuitDrawing:
    """A drawing whose parts can be found and lit."""

    style: Style
    width: float
    height: float
    description: str
    marks: list[Ink]
    places: list[Place]


def control_colour(school: str | None, kind: str) -> str:
    """Colour of a control conductor.

    Examples
    --------
    >>> control_colour("iec", "dc"), control_colour(None, "ac")
    ('dark blue', 'red')

    References
    ----------
    IEC 60204-1, 13.2.4; NFPA 79, 13.2.4; older British practice.
    """
    return COLOURS[school or "iec"][6 if kind == "dc" else 5]


class _Painter:
    """Turns the grid into marks; ``u`` runs along a path, ``v`` across it."""

    def __init__(self, circuit: Circuit, style: Style, colour: str) -> None:
        self.c, self.style, self.colour = circuit, style, colour
        self.grid: Grid = lay_out(circuit)
        self.marks: list[Ink] = []
        self.places: list[Place] = []
        self.left, self.top = (LEFT + FEED, TOP) if style == "columns" else (LEFT, TOP + FEED)
        self.contact = {f"{c.device}:{a}-{b}": c for c in circuit.contacts for a, b in ((c.a, c.b), (c.b, c.a))}

    @property
    def columns(self) -> bool:
        return self.style == "columns"

    def at(self, path: float, level: float, lane: int = 0) -> tuple[float, float]:
        """Where a path meets a level."""
        if self.columns:
            return self.left + COLUMN * (path + 0.5), self.top + ROW * level + LANE * lane
        return self.left + STEP * level + LANE * lane, self.top + RUNG * (path + 0.5)

    def wire(self, points: tuple[float, ...], terminal: str) -> None:
        """A piece of conductor."""
        self.marks.append(
            Ink(line(*points), f"wire:{self.c.number_of.get(terminal, '')}", conductor=self.colour, at=terminal)
        )

    def note(
        self,
        x: float,
        y: float,
        words: str,
        size: float = 9,
        anchor: Literal["start", "middle", "end"] = "middle",
        part: str = "",
    ) -> None:
        """Words that only explain."""
        self.marks.append(Ink(text(x, y, words, size, anchor), part))

    def paint(self) -> CircuitDrawing:
        self._rails()
        self._feed()
        for run in self.grid.runs:
            first, last = self.grid.lane(run.path, run.begin, top=True), self.grid.lane(run.path, run.end, top=False)
            if run.end > run.begin or last > 0:
                self.wire(
                    (
                        *self.at(run.path, run.begin, first if run.end > run.begin else 0),
                        *self.at(run.path, run.end, last),
                    ),
                    run.terminal,
                )
        self._bars()
        for p in self.grid.placed:
            self._element(p)
        self._numbers()
        deep = self._notes()
        across, along = (self.left + COLUMN * self.grid.paths + 24, self.top + ROW * self.grid.levels + 24 + deep) if self.columns else (
            self.left + STEP * self.grid.levels + 24 + 140, self.top + RUNG * self.grid.paths + 16)  # fmt: skip
        coils = ", ".join(x.device for x in self.c.loads)
        return CircuitDrawing(
            self.style,
            across,
            along,
            f"Control circuit with {self.grid.paths} paths and the loads {coils}",
            self.marks,
            self.places,
        )

    def _rails(self) -> None:
        for name, words in (("L", "L"), ("LF5", "F5"), (RETURN, "N" if self.c.earthed else "L–"), ("NF5", "N")):
            bar = self.grid.bars.get(name)
            if bar is None:
                continue
            low, high = min(bar.paths), max(bar.paths)
            if name in ("L", RETURN):
                low = 0
            a, b = self.at(low - 0.3, bar.level), self.at(high + 0.3, bar.level)
            self.marks.append(
                Ink(
                    line(*a, *b, weight="normal"),
                    f"wire:{self.c.number_of.get(self._rail_terminal(name), '')}",
                    conductor=self.colour,
                    at=self._rail_terminal(name),
                )
            )
            x, y = a
            own = name in ("L", RETURN)
            if self.columns:
                self.note(x - (20 if own else 6), y - 5 if own else y + 4, words, 11, "end")
            else:
                self.note(x - 9 if own and name == "L" else x + (9 if own else 0), y - 8, words, 11)

    def _feed(self) -> None:
        """What feeds the rails: control breaker, and transformer with its link to earth."""
        if RETURN not in self.grid.bars:
            return
        transformer = self.c.sources[RETURN].startswith("T1")
        live, back = self.c.sources["L"], self.c.sources[RETURN]
        (lx, ly), (rx, ry) = self.at(-0.3, 0), self.at(-0.3, self.grid.levels)
        phases = self.c.control_phases
        if self.columns:
            x = lx - FEED
            self.wire((lx, ly, x, ly, x, ly + 14), live)
            self.marks += [
                Ink(line(x, ly + 34, x - 9, ly + 16), "contact:F3:1-2", "open"),
                Ink(line(x, ly + 34, x - 1, ly + 14), "contact:F3:1-2", "closed"),
                *(Ink(s) for s in cross(x, ly + 14)),
            ]
            self.note(x - 12, ly + 28, "F3", 10.5, "end", "label:F3")
            self.wire((rx, ry, x, ry), back)
            if transformer:
                middle = (ly + ry) / 2
                self.wire((x, ly + 34, x, middle - 16), live)
                gap = 0.0 if self.c.earthed else 34.0
                self.wire((x, middle + 16, x, ry - gap), back)
                if gap:
                    self.wire((x, ry - 14, x, ry), back)
                self.marks += [Ink(circle(x, middle - 6, 10)), Ink(circle(x, middle + 6, 10))]
                self.note(x + 14, middle + 4, "T1", 10.5, "start", "label:T1")
                self.note(x - 14, middle + 4, " ".join(phases), 9, "end")
            else:
                self.wire((x, ly + 34, x, ly + 48), live)
                self.note(x, ly + 60, phases[0], 10)
                self.note(x - 6, ry + 4, phases[1] if len(phases) > 1 else "N", 10, "end")
            if transformer and self.c.earthed:
                self._earth(x, ry)
            if not self.c.earthed:  # unearthed, the control breaker opens both sides
                self.marks += [
                    Ink(line(x, ry - 14, x - 9, ry - 32), "contact:F3:1-2", "open"),
                    Ink(line(x, ry - 14, x - 1, ry - 34), "contact:F3:1-2", "closed"),
                ]
                self.note(x - 12, ry - 20, "F3", 10.5, "end", "label:F3")
        else:
            y = self.at(-0.3, 0)[1] - FEED + 14
            (ax, ay), (bx, by) = self.at(-0.3, 0), self.at(-0.3, self.grid.levels)
            self.wire((ax, ay, ax, y, ax + 14, y), live)
            self.marks += [Ink(rect(ax + 14, y - 5, 22, 10)), Ink(line(ax + 14, y, ax + 36, y))]
            self.note(ax + 25, y - 9, "F3", 10.5, "middle", "label:F3")
            middle = (ax + bx) / 2 if transformer else ax + 60
            self.wire((ax + 36, y, middle - (16 if transformer else 0), y), live)
            if transformer:
                self.marks += [Ink(circle(middle - 6, y, 10)), Ink(circle(middle + 6, y, 10))]
                self.note(middle, y - 14, f"T1  {' '.join(phases)}", 10, "middle", "label:T1")
                self.wire((middle + 16, y, bx, y, bx, by), back)
                if self.c.earthed:
                    self._earth(bx, y)
            else:
                self.note(middle + 4, y + 4, phases[0], 10, "start")
                self.note(bx, by - 22, phases[1] if len(phases) > 1 else "N", 10)

    def _earth(self, x: float, y: float) -> None:
        """The link to earth, before every load."""
        self.marks += [
            Ink(line(x, y, x, y + 12)), Ink(line(x - 9, y + 12, x + 9, y + 12)), Ink(line(x - 6, y + 15, x + 6, y + 15)),
            Ink(line(x - 3, y + 18, x + 3, y + 18)), Ink(circle(x, y, 2.1, filled=True)),
        ]  # fmt: skip

    def _rail_terminal(self, name: str) -> str:
        return self.c.sources.get(name, self.grid.bars[name].terminal)

    def _bars(self) -> None:
        meets: dict[tuple[float, float], int] = {}
        for run in self.grid.runs:
            for level in {run.begin, run.end} if run.end > run.begin else set():
                key = (run.path, level)
                meets[key] = meets.get(key, 0) + 1
        touching: dict[tuple[float, float], int] = {}
        for p in self.grid.placed:
            for level in (p.level, p.level + 1):
                touching[(p.path, level)] = touching.get((p.path, level), 0) + 1
        named: set[str] = set()
        for name, bar in self.grid.bars.items():
            number = self.c.number_of.get(bar.terminal, "")
            if name in ("L", RETURN, "LF5", "NF5"):
                for path in bar.paths:
                    self._dot(path, bar.level)
                continue
            low, high = min(bar.paths), max(bar.paths)
            if high > low:
                self.wire((*self.at(low, bar.level, bar.lane), *self.at(high, bar.level, bar.lane)), bar.terminal)
                for path in bar.paths:
                    ways = (
                        meets.get((path, bar.level), 0)
                        + touching.get((path, bar.level), 0)
                        + (1 if low < path < high else 0)
                        + 1
                    )
                    if ways >= 3:
                        self._dot(path, bar.level, bar.lane)
            if number and number not in named:
                named.add(number)
                x, y = self.at(low, bar.level, bar.lane)
                self.note(x - 5 if self.columns else x, y - 3 if self.columns else y - 4, number, 8.5, "end" if self.columns else "middle", f"wire:{number}")  # fmt: skip
        self._between(named)

    def _between(self, named: set[str]) -> None:
        """Numbers of wires that run from one symbol straight to the next."""
        back = {self.c.number_of.get(self.c.sources.get(x, ""), "") for x in (RETURN, "NF5")}
        for p in self.grid.placed:
            number = self.c.number_of.get(p.element.terminals[1], "")
            if not number or number in named or number in back:
                continue
            named.add(number)
            x, y = self.at(p.path, p.level + 1)
            self.note(x - 5 if self.columns else x, y + 3 if self.columns else y - 4, number, 8.5, "end" if self.columns else "middle", f"wire:{number}")  # fmt: skip

    def _dot(self, path: float, level: float, lane: int = 0) -> None:
        self.marks.append(Ink(circle(*self.at(path, level, lane), 2.1, filled=True)))

    def _element(self, p: Placed) -> None:
        x, y = self.at(p.path, p.level)
        e = p.element
        middle = (x, y + ROW / 2) if self.columns else (x + STEP / 2, y)
        kind = self.c.devices[e.device].kind
        if e.load:
            self.places.append(Place(f"load:{e.device}", p.path + 1, *middle))
            marks = load_iec(x, y, e.device, kind) if self.columns else load_na(x, y, e.device, kind)
            part = f"load:{e.device}"
            self.marks += [Ink(s, part) for s in marks]
        else:
            name = f"{e.device}:{e.a}-{e.b}"
            contact = self.contact[name]
            self.places.append(Place(f"contact:{contact.name}", p.path + 1, *middle))
            forms = contact_iec(x, y, contact, kind) if self.columns else contact_na(x, y, contact, kind)
            self.marks += [Ink(s, f"contact:{contact.name}", when) for s, when in forms]
        first, second = e.terminals
        if self.columns:
            self.wire((x, y + LANE * self.grid.lane(p.path, p.level, top=True), x, y + 20), first)
            self.wire((x, y + 38, x, y + ROW), second)
            left = 29 if (not e.load and kind in ACTUATED) or (e.load and kind in CROSSED[2:]) else 16
            self.note(x - left, y + 32, e.device, 10.5, "end", f"label:{e.device}")
            self.note(x + 4, y + 14, e.a, 8, "start")
            self.note(x + 4, y + 51, e.b, 8, "start")
        else:
            self.wire((x + LANE * self.grid.lane(p.path, p.level, top=True), y, x + 30, y), first)
            self.wire((x + 54, y, x + STEP, y), second)
            self.note(x + 42, y - 17, e.device, 10.5, "middle", f"label:{e.device}")
            self.note(x + 24, y + 12, e.a, 8, "end")
            self.note(x + 60, y + 12, e.b, 8, "start")

    def _numbers(self) -> None:
        for path in range(self.grid.paths):
            x, y = self.at(path, 0)
            if self.columns:
                self.note(x, 16, str(path + 1), 10)
            else:
                self.note(18, y + 4, str(path + 1), 10)

    def _notes(self) -> float:
        """Cross-references: where the contacts of each coil are."""
        path_of = {p.element.terminals: p.path + 1 for p in self.grid.placed}
        deepest = 0
        for p in self.grid.placed:
            if not p.element.load or self.c.devices[p.element.device].kind not in CROSSED:
                continue
            mine = [c for c in self.c.contacts if c.device == p.element.device and c.circle == "control"]
            found = [(c, path_of.get(c.terminals) or path_of.get(c.terminals[::-1])) for c in mine]
            words = [f"{c.a}-{c.b} .{at}" for c, at in found if at]
            if self.columns:
                x, y = self.at(p.path, self.grid.levels)
                for i, w in enumerate(words):
                    self.note(x, y + 18 + NOTE * i, w, 8.5, "middle", f"label:{p.element.device}")
                deepest = max(deepest, len(words))
            else:
                x, y = self.at(p.path, self.grid.levels)
                for i, half in enumerate((words[: (len(words) + 1) // 2], words[(len(words) + 1) // 2 :])):
                    if half:
                        self.note(x + 12, y - 2 + NOTE * i, "  ".join(half), 8.5, "start", f"label:{p.element.device}")
        return NOTE * deepest


def draw_control(circuit: Circuit, style: Style, *, school: str | None = None, kind: str = "ac") -> CircuitDrawing:
    """The control circuit.

    Parameters
    ----------
    style : ``columns`` (IEC 60617 type symbols) or ``ladder`` (North American symbols)
    school : of the wire colours
    kind : ``ac`` or ``dc``

    References
    ----------
    IEC 61082-1, IEC 60617; NEMA ICS 19 for the ladder's symbols.
    """
    return _Painter(circuit, style, control_colour(school, kind)).paint()
