"""The control circuit as a drawing: columns with IEC symbols, or ladder rungs with North American ones."""

from dataclasses import dataclass
from typing import Literal

from volmek.core.circuit.drawing.layout import Grid, Placed, lay_out
from volmek.core.circuit.drawing.names import part_names
from volmek.core.circuit.drawing.symbols import ACTUATED, CROSSED, contact_iec, contact_na, cross, load_iec, load_na
from volmek.core.circuit.model.colours import Colours
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit
from volmek.core.results.drawing import Shape, circle, line, rect, text

Style = Literal["columns", "ladder"]
#: Steps of the grid, margins, and heights of the notes under the coils.
COLUMN, ROW, RUNG, STEP = 92.0, 58.0, 74.0, 84.0
TOP, LEFT, NOTE, LANE, FEED = 40.0, 56.0, 11.0, 8.0, 64.0


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
    """Place of a symbol: path number and its middle."""

    part: str
    path: int
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class CircuitDrawing:
    """A drawing whose parts can be found, named and lit."""

    style: Style
    width: float
    height: float
    description: str
    marks: list[Ink]
    places: list[Place]
    names: dict[str, str]


#: Stands on the drawing of a control circuit that outlives its main breaker.


class _Painter:
    """Turns the grid into marks; ``u`` runs along a path, ``v`` across it."""

    def __init__(self, circuit: Circuit, style: Style, colours: Colours) -> None:
        self.c, self.style, self.colours = circuit, style, colours
        self.grid: Grid = lay_out(circuit)
        self.marks: list[Ink] = []
        self.places: list[Place] = []
        self.left, self.top = (LEFT + FEED, TOP) if style == "columns" else (LEFT, TOP + FEED)
        self.contact = {f"{c.device}:{a}-{b}": c for c in circuit.contacts for a, b in ((c.a, c.b), (c.b, c.a))}

    @property
    def columns(self) -> bool:
        return self.style == "columns"

    def at(self, path: float, level: float, lane: int = 0) -> tuple[float, float]:
        """Point at which a path meets a level."""
        if self.columns:
            return self.left + COLUMN * (path + 0.5), self.top + ROW * level + LANE * lane
        return self.left + STEP * level + LANE * lane, self.top + RUNG * (path + 0.5)

    def wire(self, points: tuple[float, ...], terminal: str) -> None:
        """A piece of conductor."""
        self.marks.append(
            Ink(
                line(*points),
                f"wire:{self.c.number_of.get(terminal, '')}",
                conductor=self.colours.at(terminal),
                at=terminal,
            )
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
            part_names(self.c),
        )

    def _rails(self) -> None:
        live, back = self.c.source.rails
        for name, words in (
            (LIVE, live.name),
            ("LF5", self.c.named("heater_breaker")),
            (RETURN, back.name),
            ("NF5", "N"),
        ):
            bar = self.grid.bars.get(name)
            if bar is None:
                continue
            low, high = min(bar.paths), max(bar.paths)
            if name in (LIVE, RETURN):
                low = 0
            a, b = self.at(low - 0.3, bar.level), self.at(high + 0.3, bar.level)
            terminal = self._rail_terminal(name)
            number = self.c.number_of.get(terminal, "")
            self.marks.append(
                Ink(line(*a, *b, weight="normal"), f"wire:{number}", conductor=self.colours.at(terminal), at=terminal)
            )
            x, y = a
            own = name in (LIVE, RETURN)
            if self.columns:
                self.note(x - (20 if own else 6), y - 5 if own else y + 4, words, 11, "end")
                self.note(b[0] + 4, y + 3, number, 9, "start", f"wire:{number}")
            else:
                self.note(x - 9 if own and name == LIVE else x + (9 if own else 0), y - 8, words, 11)
                self.note(b[0], b[1] + 12, number, 9, "middle", f"wire:{number}")

    def _feed(self) -> None:
        """Feed of the rails: from the tap or from outside, through primary breaker and transformer, to the control breaker."""
        if RETURN not in self.grid.bars:
            return
        if self.columns:
            self._feed_down()
        else:
            self._feed_across()
        if self.c.source.alive_with_main_off:
            x, y = (
                (self.left - FEED - 40, self.top + ROW * self.grid.levels + 40)
                if self.columns
                else (self.left - 30, self.top - FEED + 2)
            )
            self.note(x, y, f"⚠ Control circuit live with {self.c.named('main_breaker')} off", 10, "start", "caution")

    def _pole(self, name: str, a: str, b: str, x: float, y: float, *, down: bool = True) -> None:
        """One pole of a breaker or fuse of the feed, 20 long, from its supply side on; to the right where it does not go down."""
        device, part = self.c.devices[name], f"contact:{name}:{a}-{b}"
        if device.form == "fuse":
            box = rect(x - 4, y, 8, 20) if down else rect(x, y - 4, 20, 8)
            self.marks += [Ink(box, part), Ink(line(x, y, x, y + 20) if down else line(x, y, x + 20, y), part)]
            return
        if down:
            forms = [(line(x, y + 20, x - 9, y + 2), "open"), (line(x, y + 20, x - 1, y), "closed")]
        else:
            forms = [(line(x + 20, y, x + 2, y - 9), "open"), (line(x + 20, y, x, y - 1), "closed")]
        for shape, when in forms:
            self.marks.append(Ink(shape, part, "open" if when == "open" else "closed"))
        self.marks += [Ink(s) for s in cross(x, y)]

    def _source_words(self, k: int) -> str:
        """The conductor that a side of the feed comes from, with its tap."""
        source = self.c.source
        if source.kind == "separate":
            return source.rails[k].name
        if source.kind == "unknown":
            return "not decided" if k == 0 else ""
        f3, f6, _ = self._feeding
        at = next(
            (
                w.a
                for w in self.c.feed
                if w.b in ((f"{f3}:1", f"{f6}:1") if k == 0 else (f"{f3}:3", f"{f6}:3", self.c.sources[RETURN]))
            ),
            "",
        )
        return f"{source.feeds[k]} ({at})" if at and not at.startswith("supply") else source.feeds[k]

    @property
    def _feeding(self) -> tuple[str, str, str]:
        """Control breaker, primary breaker and control transformer."""
        return self.c.named("control_breaker"), self.c.named("primary_breaker"), self.c.named("control_transformer")

    def _feed_down(self) -> None:
        source, sources = self.c.source, self.c.sources
        f3, f6, t1 = self._feeding
        live, back = sources[LIVE], sources[RETURN]
        (lx, ly), (_, ry) = self.at(-0.3, 0), self.at(-0.3, self.grid.levels)
        x, two = lx - FEED, source.breaker_poles == 2
        self.wire((lx, ly, x, ly, x, ly + 14), live)
        self._pole(f3, "1", "2", x, ly + 14)
        self.note(x - 12, ly + 28, f3, 10.5, "end", f"label:{f3}")
        self.note(x + 4, ly + 12, "2", 9, "start")
        self.note(x + 4, ly + 44, "1", 9, "start")
        low = ry
        self.wire((lx, ry, x, ry), back)
        if two:
            self.wire((x, ry, x, ry - 14), back)
            self._pole(f3, "3", "4", x, ry - 34)
            self.note(x - 12, ry - 20, f3, 10.5, "end", f"label:{f3}")
            self.note(x + 4, ry - 36, "3", 9, "start")
            self.note(x + 4, ry - 4, "4", 9, "start")
            low = ry - 34
        if not source.transformed:
            self.wire((x, ly + 34, x, ly + 48), f"{f3}:1")
            self.note(x, ly + 60, self._source_words(0), 9.5)
            if two:
                self.wire((x, low, x, low - 12), f"{f3}:3")
                self.note(x, low - 18, self._source_words(1), 9.5)
            else:
                self.note(x - 6, ry + 14, self._source_words(1), 9.5)
            return
        middle = (ly + low) / 2
        self.wire((x, ly + 34, x, middle - 16), f"{f3}:1")
        self.wire((x, middle + 16, x, low), f"{t1}:s2")
        self.marks += [Ink(circle(x, middle - 6, 10)), Ink(circle(x, middle + 6, 10))]
        self.note(x + 4, middle - 18, "s1", 9, "start")
        self.note(x + 4, middle + 25, "s2", 9, "start")
        name_y = middle + (-8 if source.centre else 4)
        self.note(x + 14, name_y, t1 + (" ⎓" if source.kind == "power_unit" else ""), 10.5, "start", f"label:{t1}")
        for k, dy in enumerate((-9.0, 9.0)):
            self.wire((x - 10, middle + dy, x - 18, middle + dy), f"{t1}:p{k + 1}")
            self.note(x - 11, middle + dy - (4 if k == 0 else -10), f"p{k + 1}", 9, "end")
            self._pole(f6, str(2 * k + 1), str(2 * k + 2), x - 38, middle + dy, down=False)
            self.note(x - 47, middle + dy + 3, source.feeds[k], 9, "end")
        self.note(x - 28, middle - 22, f6, 10, "middle", f"label:{f6}")
        if source.centre:
            self.marks.append(Ink(line(x + 10, middle, x + 26, middle)))
            self._earth(x + 26, middle)
        elif source.earthed:
            self._earth(x, ry)

    def _feed_across(self) -> None:
        source, sources = self.c.source, self.c.sources
        f3, f6, t1 = self._feeding
        live, back = sources[LIVE], sources[RETURN]
        (ax, ay), (bx, by) = self.at(-0.3, 0), self.at(-0.3, self.grid.levels)
        y, two = ay - FEED + 14, source.breaker_poles == 2
        self.wire((ax, ay, ax, y, ax + 14, y), live)
        self._pole(f3, "1", "2", ax + 14, y, down=False)
        self.note(ax + 24, y - 12, f3, 10.5, "middle", f"label:{f3}")
        end = bx
        self.wire((bx, by, bx, y), back)
        if two:
            self.wire((bx, y, bx - 14, y), back)
            self._pole(f3, "3", "4", bx - 34, y, down=False)
            self.note(bx - 24, y - 12, f3, 10.5, "middle", f"label:{f3}")
            end = bx - 34
        if not source.transformed:
            self.note(ax + 40, y + 4, self._source_words(0), 9.5, "start")
            self.note(end - 6, y + 4, self._source_words(1), 9.5, "end")
            return
        middle = (ax + end) / 2
        self.wire((ax + 34, y, middle - 16, y), f"{f3}:1")
        self.wire((middle + 16, y, end, y), f"{t1}:s2")
        self.marks += [Ink(circle(middle - 6, y, 10)), Ink(circle(middle + 6, y, 10))]
        feeds = " ".join(f"{f6}:{2 * k + 1} {f}" for k, f in enumerate(source.feeds))
        self.note(middle, y + 24, f"{t1}  {feeds}", 9, "middle", f"label:{t1}")
        if source.centre:
            self.marks.append(Ink(line(middle, y - 10, middle, y - 16, middle + 22, y - 16, middle + 22, y - 10)))
            self._earth(middle + 22, y - 10)
        elif source.earthed:
            self._earth(bx, y)

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
                self.note(x - 5 if self.columns else x, y - 3 if self.columns else y - 4, number, 9, "end" if self.columns else "middle", f"wire:{number}")  # fmt: skip
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
            self.note(x - 5 if self.columns else x, y + 3 if self.columns else y - 4, number, 9, "end" if self.columns else "middle", f"wire:{number}")  # fmt: skip

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
            self.note(x + 4, y + 14, e.a, 9, "start")
            self.note(x + 4, y + 51, e.b, 9, "start")
        else:
            self.wire((x + LANE * self.grid.lane(p.path, p.level, top=True), y, x + 30, y), first)
            self.wire((x + 54, y, x + STEP, y), second)
            self.note(x + 42, y - 17, e.device, 10.5, "middle", f"label:{e.device}")
            self.note(x + 24, y + 12, e.a, 9, "end")
            self.note(x + 60, y + 12, e.b, 9, "start")

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
            mine = [c for c in self.c.contacts if c.device == p.element.device and c.side == "control"]
            found = [(c, path_of.get(c.terminals) or path_of.get(c.terminals[::-1])) for c in mine]
            words = [f"{c.a}-{c.b} .{at}" for c, at in found if at]
            if self.columns:
                x, y = self.at(p.path, self.grid.levels)
                for i, w in enumerate(words):
                    self.note(x, y + 18 + NOTE * i, w, 9, "middle", f"label:{p.element.device}")
                deepest = max(deepest, len(words))
            else:
                x, y = self.at(p.path, self.grid.levels)
                for i, half in enumerate((words[: (len(words) + 1) // 2], words[(len(words) + 1) // 2 :])):
                    if half:
                        self.note(x + 12, y - 2 + NOTE * i, "  ".join(half), 9, "start", f"label:{p.element.device}")
        return NOTE * deepest


def draw_control(circuit: Circuit, style: Style, school: str = "iec") -> CircuitDrawing:
    """The control circuit.

    Parameters
    ----------
    style : ``columns`` (IEC 60617 type symbols) or ``ladder`` (North American symbols)
    school : of the wire colours

    References
    ----------
    IEC 61082-1, IEC 60617; NEMA ICS 19 for the ladder's symbols.
    """
    return _Painter(circuit, style, Colours(circuit, school)).paint()
