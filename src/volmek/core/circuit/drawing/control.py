"""The control circuit as a drawing: columns with IEC symbols, or ladder rungs with North American ones."""

from volmek.core.circuit.drawing.feed import COLUMN, LANE, NOTE, ROW, RUNG, STEP, FeedPen
from volmek.core.circuit.drawing.layout import FOLD, Bar, Grid, Placed
from volmek.core.circuit.drawing.names import part_names
from volmek.core.circuit.drawing.pen import CircuitDrawing, Cut, Ink, Place, Spot, Style
from volmek.core.circuit.drawing.symbols import ACTUATED, CROSSED, contact_iec, contact_na, load_iec, load_na
from volmek.core.circuit.model.colours import Colours
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit, makes_at_rest
from volmek.core.results.drawing import circle, line

#: How far a wire reaches past its path where it goes on beside it.
FOLDED = 0.34


class ControlPen(FeedPen):
    """Turns the grid, or the part of it that one sheet takes, into marks.

    Parameters
    ----------
    circuit, style, colours : what is drawn and how
    window : paths of the sheet, all where it is left out
    grid : where everything stands, worked out where it is left out
    """

    def __init__(
        self, circuit: Circuit, style: Style, colours: Colours, window: range | None = None, grid: Grid | None = None
    ) -> None:
        super().__init__(circuit, style, colours, window, grid)
        self.contact = {f"{c.device}:{a}-{b}": c for c in circuit.contacts for a, b in ((c.a, c.b), (c.b, c.a))}

    def draw(self) -> None:
        """Rails, feed, wires and symbols: everything but the numbers of the paths and what they refer to."""
        self._rails()
        self._feed()
        for run in self.grid.runs:
            if run.path not in self.window:
                continue
            first, last = self.grid.lane(run.path, run.begin, top=True), self.grid.lane(run.path, run.end, top=False)
            if run.end > run.begin or last > 0:
                begin = self.at(run.path, run.begin, first if run.end > run.begin else 0)
                self.wire((*begin, *self.at(run.path, run.end, last)), run.terminal)
        self._bars()
        for p in self.placed:
            self._element(p)

    @property
    def placed(self) -> list[Placed]:
        """Contacts and loads on the paths of this sheet."""
        return [p for p in self.grid.placed if p.path in self.window]

    @property
    def extent(self) -> tuple[float, float]:
        """Width and height without the lists under or beside the coils."""
        if self.columns:
            return self.left + COLUMN * len(self.window) + 24, self.top + ROW * self.grid.levels + 24
        return self.left + STEP * self.grid.levels + 24, self.top + RUNG * len(self.window) + 16

    def paint(self) -> CircuitDrawing:
        """The drawing of the screen, with numbered paths."""
        self.draw()
        self._numbers()
        deep = self._notes()
        width, height = self.extent
        if self.columns:
            height += deep
        else:
            width += 140
        coils = ", ".join(x.device for x in self.c.loads)
        return CircuitDrawing(
            self.style,
            width,
            height,
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
            own = name in (LIVE, RETURN)
            low, high = 0 if own else min(bar.paths), max(bar.paths)
            if high < self.window.start or low >= self.window.stop:
                continue
            (a, before), (b, after) = self._ends(bar, low, high, 0.3)
            terminal = self._rail_terminal(name)
            number = self.c.number_of.get(terminal, "")
            self.marks.append(
                Ink(line(*a, *b, weight="normal"), f"wire:{number}", conductor=self.colours.at(terminal), at=terminal)
            )
            x, y = a
            if self.columns:
                low_rail = name == RETURN  # its name stands below it, clear of what is said beside the coils
                self.note(x - (20 if own else 6), y + 13 if low_rail else y - 5 if own else y + 4, words, 11, "end")
                self.note(b[0] + 4, y + 3, number, 9, "start", f"wire:{number}")
            else:
                self.note(x - 9 if own and name == LIVE else x + (9 if own else 0), y - 8, words, 11)
                self.note(b[0], b[1] + 12, number, 9, "middle", f"wire:{number}")
            self._cut(name, bar, before, after, (a, b), beyond=14.0, drop=-7.0 if name == RETURN else 7.0)

    def _ends(
        self, bar: Bar, low: float, high: float, over: float
    ) -> tuple[tuple[tuple[float, float], bool], tuple[tuple[float, float], bool]]:
        """Ends of a bar on this sheet, each with whether it continues; ``over`` is its length past its paths."""
        before, after = low < self.window.start, high >= self.window.stop
        first: float = self.window.start - 0.5 if before else low - over
        last: float = self.window.stop - 0.5 if after else high + over
        return (self.at(first, bar.level, bar.lane), before), (self.at(last, bar.level, bar.lane), after)

    def _cut(
        self,
        name: str,
        bar: Bar,
        before: bool,
        after: bool,
        ends: tuple[tuple[float, float], tuple[float, float]],
        beyond: float = 0.0,
        drop: float = 0.0,
    ) -> None:
        """Note that a bar continues on another sheet; ``beyond`` and ``drop`` keep clear of words at its ends."""
        lane = 0 if name.endswith(FOLD) else bar.lane % 2
        for ahead, (x, y) in ((False, ends[0]), (True, ends[1])):
            if not (after if ahead else before):
                continue
            if self.columns and ahead:
                self.cuts.append(Cut(name, ahead, x, y, (x + 4.0 + 36 * lane + beyond, y + 3), "start"))
            elif self.columns:
                self.cuts.append(Cut(name, ahead, x, y, (x - 4.0 - 36 * lane, y + 3 + drop), "end"))
            else:
                off = 10 * lane + beyond
                self.cuts.append(Cut(name, ahead, x, y, (x, y + 9 + off if ahead else y - 5 - off), "middle"))

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
            here = [path for path in bar.paths if path in self.window]
            if name in ("L", RETURN, "LF5", "NF5"):
                for path in here:
                    self._dot(path, bar.level)
                continue
            low, high = min(bar.paths), max(bar.paths)
            if high < self.window.start or low >= self.window.stop:
                continue
            stops, begins = name.endswith(FOLD), name in self.grid.folds
            if high > low or stops or begins:
                (a, before), (b, after) = self._ends(bar, low - FOLDED * begins, high + FOLDED * stops, 0)
                self.wire((*a, *b), bar.terminal)
                self._cut(name, bar, before, after, (a, b))
                if (stops and not after) or (begins and not before):
                    self._cut(f"{name.removesuffix(FOLD)}{FOLD}", bar, begins, stops, (a, b))
                for path in here:
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
                x, y = self.at(max(low, self.window.start), bar.level, bar.lane)
                beside = self.columns or begins or low < self.window.start
                at = (x - 5, y - 3) if self.columns else (x - 5 if beside else x, y - 4)
                self.note(*at, number, 9, "end" if beside else "middle", f"wire:{number}")
        self._between(named)

    def _between(self, named: set[str]) -> None:
        """Numbers of wires that run from one symbol straight to the next."""
        back = {self.c.number_of.get(self.c.sources.get(x, ""), "") for x in (RETURN, "NF5")}
        for p in self.placed:
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
        device = self.c.devices[e.device]
        if e.load:
            part, name = f"load:{e.device}", f"{kind}_load"
            shapes = load_iec(x, y, kind) if self.columns else load_na(x, y, kind)
            marks = [Ink(s, part) for s in shapes]
        else:
            contact = self.contact[f"{e.device}:{e.a}-{e.b}"]
            part, name = f"contact:{contact.name}", f"{kind}_{'make' if makes_at_rest(contact) else 'break'}"
            name += f"_{device.form}" if kind == "field" else ""
            forms = contact_iec(x, y, contact, device) if self.columns else contact_na(x, y, contact, device)
            marks = [Ink(s, part, when) for s, when in forms]
        self.places.append(Place(part, p.path + 1, *middle))
        self.symbol(name, part, e.device, (x, y), marks)
        first, second = e.terminals
        if self.columns:
            self.wire((x, y + LANE * self.grid.lane(p.path, p.level, top=True), x, y + 20), first)
            self.wire((x, y + 38, x, y + ROW), second)
            left = 29 if (not e.load and kind in ACTUATED) or (e.load and kind in CROSSED[2:]) else 16
            self.note(x - left, y + 32, e.device, 10.5, "end", f"label:{e.device}")
            foot = (x, self.at(p.path, self.grid.levels)[1] + 18)
            self.spots.append(Spot(part, e.device, *middle, (x - left, y + 42), "end", foot=foot))
            self.note(x + 4, y + 14, e.a, 9, "start")
            self.note(x + 4, y + 51, e.b, 9, "start")
        else:
            self.wire((x + LANE * self.grid.lane(p.path, p.level, top=True), y, x + 30, y), first)
            self.wire((x + 54, y, x + STEP, y), second)
            self.note(x + 42, y - 17, e.device, 10.5, "middle", f"label:{e.device}")
            beside, pitch = ((x + 42, y + 26), 10.0) if e.load else ((x + 42, y - 28), -10.0)
            foot = (self.at(p.path, self.grid.levels)[0] + 12, y - 15)
            self.spots.append(Spot(part, e.device, *middle, beside, "middle", pitch, foot))
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
    return ControlPen(circuit, style, Colours(circuit, school)).paint()
