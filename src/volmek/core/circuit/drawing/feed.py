"""The feed of a control circuit as it is drawn: from the tap or from outside, through primary breaker and transformer."""

from typing import Literal

from volmek.core.circuit.drawing.layout import Grid, lay_out
from volmek.core.circuit.drawing.pen import Ink, Pen, Spot, Style
from volmek.core.circuit.drawing.symbols import breaker_na, cross
from volmek.core.circuit.model.colours import Colours
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit
from volmek.core.results.drawing import Shape, circle, line, rect

#: Steps of the grid, margins, and heights of the notes under the coils.
COLUMN, ROW, RUNG, STEP = 92.0, 58.0, 74.0, 84.0
TOP, LEFT, NOTE, LANE, FEED = 40.0, 56.0, 11.0, 8.0, 64.0
#: Room in place of the feed where the drawing goes on from another sheet.
CONTINUED = 44.0


class FeedPen(Pen):
    """Draws the feed of a laid-out control circuit."""

    def __init__(
        self, circuit: Circuit, style: Style, colours: Colours, window: range | None = None, grid: Grid | None = None
    ) -> None:
        super().__init__(circuit, style, colours)
        self.grid: Grid = grid or lay_out(circuit)
        self.paged, self.window = window is not None, window or range(self.grid.paths)
        feed = FEED if self.first else CONTINUED
        self.left, self.top = (LEFT + feed, TOP) if style == "columns" else (LEFT, TOP + feed)

    @property
    def first(self) -> bool:
        """The sheet has the first path, and with it the feed."""
        return self.window.start == 0

    def at(self, path: float, level: float, lane: int = 0) -> tuple[float, float]:
        """Point at which a path meets a level."""
        path -= self.window.start
        if self.columns:
            return self.left + COLUMN * (path + 0.5), self.top + ROW * level + LANE * lane
        return self.left + STEP * level + LANE * lane, self.top + RUNG * (path + 0.5)

    def _feed(self) -> None:
        """Feed of the rails: from the tap or from outside, through primary breaker and transformer, to the control breaker."""
        if RETURN not in self.grid.bars or not self.first:
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
            y = 14.0 if self.paged else y  # clear of the words that a sheet has more
            self.note(x, y, f"⚠ Control circuit live with {self.c.named('main_breaker')} off", 10, "start", "caution")

    def _pole(self, name: str, a: str, b: str, x: float, y: float, *, down: bool = True) -> None:
        """One pole of a breaker or fuse of the feed, 20 long, from its supply side on; to the right where it does not go down."""
        device, part = self.c.devices[name], f"contact:{name}:{a}-{b}"
        way = "" if down else "_across"
        if device.form == "fuse":
            box = rect(x - 4, y, 8, 20) if down else rect(x, y - 4, 20, 8)
            marks = [Ink(box, part), Ink(line(x, y, x, y + 20) if down else line(x, y, x + 20, y), part)]
            self.symbol(f"feed_fuse{way}", part, name, (x, y), marks)
            return
        forms: list[tuple[Shape, Literal["", "open", "closed"]]]
        if self.columns:
            forms = [(s, "") for s in cross(x, y)]
            if down:
                forms += [(line(x, y + 20, x - 9, y + 2), "open"), (line(x, y + 20, x - 1, y), "closed")]
            else:
                forms += [(line(x + 20, y, x + 2, y - 9), "open"), (line(x + 20, y, x, y - 1), "closed")]
        else:
            forms = breaker_na(x, y, down=down)
        self.symbol(f"feed_breaker{way}", part, name, (x, y), [Ink(s, part, when) for s, when in forms])

    def _tap(self, k: int) -> str:
        """Terminal of the power circuit that a side of the feed is tapped from; empty where it comes from elsewhere."""
        if self.c.source.kind in ("separate", "unknown"):
            return ""
        f3, f6, _ = self._feeding
        ends = (f"{f3}:1", f"{f6}:1") if k == 0 else (f"{f3}:3", f"{f6}:3", self.c.sources[RETURN])
        at = next((w.a for w in self.c.feed if w.b in ends), "")
        return "" if at.startswith("supply") else at

    def _source(
        self, k: int, x: float, y: float, anchor: Literal["start", "middle", "end"] = "middle", pitch: float = 11.0
    ) -> None:
        """The conductor that a side of the feed comes from, with its tap; ``pitch`` is the way to the reference."""
        source = self.c.source
        if source.kind == "separate":
            words = source.rails[k].name
        elif source.kind == "unknown":
            words = "not decided" if k == 0 else ""
        else:
            words = source.feeds[k] + (f" ({at})" if (at := self._tap(k)) else "")
        if (
            words != source.rails[k].name or self._tap(k) or source.breaker_poles == 2 or k == 0
        ):  # the rail says it already
            self.note(x, y, words, 9.5, anchor)
        self._from(k, x, y + pitch, anchor)

    def _from(self, k: int, x: float, y: float, anchor: Literal["start", "middle", "end"]) -> None:
        """Room for the reference of a conductor that comes in from the power circuit."""
        if at := self._tap(k):
            self.spots.append(Spot(f"feed:{at}", at.partition(":")[0], x, y, (x, y), anchor))

    def _device(
        self,
        name: str,
        x: float,
        y: float,
        words_x: float,
        words_y: float,
        anchor: Literal["start", "middle", "end"],
        pitch: float = 10.0,
    ) -> None:
        """Position of a device of the feed, and of the room for its rating."""
        self.spots.append(Spot(f"device:{name}", name, x, y, (words_x, words_y), anchor, pitch))

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
        self._device(f3, x, ly + 24, x - 12, ly + 38, "end")
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
            self._source(0, x, ly + 60)
            if two:
                self.wire((x, low, x, low - 12), f"{f3}:3")
                self._source(1, x, low - 18, pitch=-11)
            else:
                self._source(1, x - 6, ry + 14)
            return
        middle = (ly + low) / 2
        self.wire((x, ly + 34, x, middle - 16), f"{f3}:1")
        self.wire((x, middle + 16, x, low), f"{t1}:s2")
        self.marks += [Ink(circle(x, middle - 6, 10)), Ink(circle(x, middle + 6, 10))]
        self.note(x + 4, middle - 18, "s1", 9, "start")
        self.note(x + 4, middle + 25, "s2", 9, "start")
        name_y = middle + (-8 if source.centre else 4)
        self.note(x + 14, name_y, t1 + (" ⎓" if source.kind == "power_unit" else ""), 10.5, "start", f"label:{t1}")
        self._device(t1, x, middle, x - 8, middle + 38, "end")
        self._device(f6, x - 28, middle, x - 14, middle - 33, "end", -10)
        for k, dy in enumerate((-9.0, 9.0)):
            self.wire((x - 10, middle + dy, x - 18, middle + dy), f"{t1}:p{k + 1}")
            self.note(x - 11, middle + dy - (4 if k == 0 else -10), f"p{k + 1}", 9, "end")
            self._pole(f6, str(2 * k + 1), str(2 * k + 2), x - 38, middle + dy, down=False)
            self.note(x - 47, middle + dy + 3, source.feeds[k], 9, "end")
            self._from(k, x - 47, middle + dy + (-7 if k == 0 else 13), "end")
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
        self._device(f3, ax + 24, y, ax + 24, y - 24, "middle", -10)
        end = bx
        self.wire((bx, by, bx, y), back)
        if two:
            self.wire((bx, y, bx - 14, y), back)
            self._pole(f3, "3", "4", bx - 34, y, down=False)
            self.note(bx - 24, y - 12, f3, 10.5, "middle", f"label:{f3}")
            end = bx - 34
        if not source.transformed:
            self._source(0, ax + 40, y + 4, "start")
            self._source(1, end - 6, y + 4, "end")
            return
        middle = (ax + end) / 2
        self.wire((ax + 34, y, middle - 16, y), f"{f3}:1")
        self.wire((middle + 16, y, end, y), f"{t1}:s2")
        self.marks += [Ink(circle(middle - 6, y, 10)), Ink(circle(middle + 6, y, 10))]
        feeds = " ".join(f"{f6}:{2 * k + 1} {f}" for k, f in enumerate(source.feeds))
        self.note(middle, y + 24, f"{t1}  {feeds}", 9, "middle", f"label:{t1}")
        self._from(0, middle, y + 35, "middle")
        self._device(t1, middle, y, middle, y - 26, "middle", -10)
        self._device(f6, middle, y, middle, y - 46, "middle", -10)
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
