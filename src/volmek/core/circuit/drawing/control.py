"""The control circuit as a drawing: columns with IEC symbols, or ladder rungs with North American ones."""

from volmek.core.circuit.drawing.feed import COLUMN, LANE, NOTE, ROW, RUNG, STEP, FeedPen
from volmek.core.circuit.drawing.layout import Placed
from volmek.core.circuit.drawing.names import part_names
from volmek.core.circuit.drawing.pen import CircuitDrawing, Ink, Place, Style
from volmek.core.circuit.drawing.symbols import ACTUATED, CROSSED, contact_iec, contact_na, load_iec, load_na
from volmek.core.circuit.model.colours import Colours
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit
from volmek.core.results.drawing import circle, line


class _Painter(FeedPen):
    """Turns the grid into marks."""

    def __init__(self, circuit: Circuit, style: Style, colours: Colours) -> None:
        super().__init__(circuit, style, colours)
        self.contact = {f"{c.device}:{a}-{b}": c for c in circuit.contacts for a, b in ((c.a, c.b), (c.b, c.a))}

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
