"""The power circuit as a drawing: all conductors of a way side by side, branches beside each other, the motor at the foot."""

from volmek.core.circuit.drawing.layout import Layout, Piece
from volmek.core.circuit.drawing.names import part_names
from volmek.core.circuit.drawing.pen import CircuitDrawing, Ink, Pen, Place, Spot, Style
from volmek.core.circuit.drawing.symbols import Form, breaker_na, heater_na
from volmek.core.circuit.model.colours import Colours
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.model.notation import Element, Node
from volmek.core.results.drawing import Shape, arc, circle, line, rect, text

ROW, POLE, TOP, LEFT, STAGGER = 62.0, 30.0, 52.0, 66.0, 8.0
LETTERS = "UVW"
MOTOR = "motor"


def _index(token: str, p: int, ends: str) -> int:
    """Conductor of a node that the pole of a phase meets."""
    if "{r}" in token:
        return 2 - p
    return LETTERS.index(ends[p]) if "{x}" in token else p


class PowerPen(Pen):
    """Draws the power circuit.

    Parameters
    ----------
    circuit, style, colours : what is drawn and how
    room : left of each way, for words beside its devices
    """

    def __init__(self, circuit: Circuit, style: Style, colours: Colours, room: float = 0.0) -> None:
        super().__init__(circuit, style, colours)
        self.n = 1 if circuit.single_phase else 3
        self.room = room
        self.motor_xs: list[float] = []
        lines = [self._line(t, e) for t, e in circuit.power_lines]
        rails = tuple(
            dict.fromkeys(
                x[0].name for x in lines if isinstance(x[0], Node) and x[0].name in ("L{p}", "L1", "L2", "N", "ring{p}")
            )
        )
        self.layout = Layout(tuple(lines), rails, ("star", "star2", "star3", "star4", MOTOR))
        self.grid = self.layout.grid
        self.rails = rails
        self.width = POLE * self.n + (62 if self.n == 3 else 44) + room

    def _line(self, template: str, ends: str) -> tuple[Node | Element, ...]:
        found: list[Node | Element] = []
        for token in template.split(" > "):
            name = token.replace("{x}", "{t}").replace("{r}", "{p}")
            if ":" not in token:
                found.append(Node(name))
            elif "-" in token:
                device, _, pair = token.partition(":")
                a, _, b = pair.partition("-")
                found.append(Element(device, a, b, load=False))
            elif self.c.in_motor(token):
                found += [Element(self.c.motor, token.partition(":")[2], MOTOR, load=True), Node(MOTOR)]
        return tuple(found)

    def x(self, path: int, pole: int) -> float:
        return LEFT + self.room + self.width * path + POLE * pole

    def y(self, level: float) -> float:
        return TOP + ROW * level

    def way(self, points: tuple[float, ...], terminal: str, index: int) -> None:
        """A piece of conductor; without a wire its colour follows its place among the lines."""
        part = f"wire:{self.c.number_of.get(terminal, '')}"
        self.marks.append(Ink(line(*points), part, conductor=self.colours.at(terminal, index), at=terminal))

    def paint(self) -> CircuitDrawing:
        attached: dict[str, dict[int, list[float]]] = {}
        terminals: dict[tuple[str, int], str] = {}
        self._pieces(attached, terminals)
        motor = self._motor()
        self._bars(attached, terminals)
        self._rail_words()
        self._interlocks()
        motor = max(motor, self._protective(motor))
        extra = self._monitor()
        paths = max(self.grid.paths, 1)
        width = LEFT + self.width * paths + 20 + extra
        height = motor + 40
        return CircuitDrawing(
            self.style,
            width,
            height,
            "Power circuit: " + ", ".join(dict.fromkeys(p.element.device for p in self.grid.placed)),
            self.marks,
            self.places,
            part_names(self.c),
        )

    def _pieces(self, attached: dict[str, dict[int, list[float]]], terminals: dict[tuple[str, int], str]) -> None:
        """Every way from node to node, pole by pole."""
        placed = {id(p.element): p for p in self.grid.placed}
        for p in self.layout.pieces:
            elements = [i for i in p.items if isinstance(i, Element)]
            where = placed[id(elements[0])]
            template, ends = self._template(p, elements)
            tokens = template.split(" > ")
            begin = next(t for t in tokens if t.replace("{x}", "{t}").replace("{r}", "{p}") in self._names(p.begin))
            end = next(
                (t for t in tokens[::-1] if t.replace("{x}", "{t}").replace("{r}", "{p}") in self._names(p.end)), p.end
            )
            for pole in range(self.n):
                self._pole(
                    p,
                    elements,
                    pole,
                    where.path,
                    (_index(begin, pole, ends), _index(end, pole, ends)),
                    attached,
                    terminals,
                )
            for e in elements:
                if e.device != self.c.motor:
                    self._frame(e, where.path, placed[id(e)].level)

    def _names(self, node: str) -> set[str]:
        return (
            {node}
            | {a for a, b in self.layout.same.items() if self.layout.name(self.layout.same, a) == node}
            | ({node} if node else set())
        )

    def _template(self, piece: Piece, elements: list[Element]) -> tuple[str, str]:
        for template, ends in self.c.power_lines:
            if all((f"{self.c.motor}:{e.a}" if e.load else f"{e.device}:{e.a}-{e.b}") in template for e in elements):
                names = {t.replace("{x}", "{t}").replace("{r}", "{p}") for t in template.split(" > ")}
                if names & self._names(piece.begin):
                    return template, ends
        raise AssertionError(piece)

    def _pole(self, p: Piece, elements: list[Element], pole: int, path: int, meets: tuple[int, int],
              attached: dict[str, dict[int, list[float]]], terminals: dict[tuple[str, int], str]) -> None:  # fmt: skip
        x = self.x(path, pole)
        begin, end = self.layout.level[p.begin], self.layout.level[p.end]
        names = [self._real(e, pole) for e in elements]
        top, low = self.y(begin) + self._offset(p.begin, meets[0]), self.y(end) + self._offset(p.end, meets[1])
        attached.setdefault(p.begin, {}).setdefault(meets[0], []).append(x)
        if p.end != MOTOR:
            attached.setdefault(p.end, {}).setdefault(meets[1], []).append(x)
        terminals.setdefault((p.begin, meets[0]), names[0][0])
        if p.end != MOTOR:
            terminals.setdefault((p.end, meets[1]), names[-1][1])
        at = top
        placed = {id(q.element): q for q in self.grid.placed}
        for e, (a, b) in zip(elements, names, strict=True):
            if e.load:
                foot = self.y(self.grid.levels) + 26
                self.way((x, at, x, foot), a, meets[0])
                self.marks.append(Ink(text(x + 3, foot - 4, a.partition(":")[2], 9, "start")))
                self.motor_xs.append(x)
                return
            y = self.y(placed[id(e)].level) + 20
            self.way((x, at, x, y + 12), a, meets[0])
            self._symbol(e, pole, x, y + 12)
            at = y + 32
            self.marks.append(Ink(text(x + 4, y + 9, a.partition(":")[2], 9, "start")))
            self.marks.append(Ink(text(x + 4, y + 42, b.partition(":")[2], 9, "start")))
            last = b
        self.way((x, at, x, low), last, meets[1])

    def _offset(self, node: str, index: int) -> float:
        bar = self.grid.bars.get(node)
        if bar is None or node.startswith("star"):
            return 0.0
        branching = len(bar.paths) > 1
        return STAGGER * (self.n * bar.lane + (index if self.n == 3 and branching else 0))

    def _real(self, e: Element, pole: int) -> tuple[str, str]:
        """Terminals of a pole as they are called."""
        o, z = str(2 * pole + 1), str(2 * pole + 2)
        letter = LETTERS[pole]
        a, b = (t.format(p=pole + 1, o=o, e=z, t=letter, x=letter) for t in (e.a, e.b))
        one_of_three = f"{e.device}{pole + 1}"  # a resistor for each line
        if e.device not in self.c.devices and one_of_three in self.c.devices:
            return f"{one_of_three}:1", f"{one_of_three}:2"
        return f"{e.device}:{a}", f"{e.device}:{b}"

    def _symbol(self, e: Element, pole: int, x: float, y: float) -> None:
        """One pole, 20 high, from y on."""
        device = self.c.devices.get(e.device)
        kind = device.kind if device else "resistor"
        name = next((c.name for c in self.c.contacts if c.terminals == self._real(e, pole)), "")
        part = f"contact:{name}" if name else f"load:{e.device}"
        forms: list[Form]
        if device is not None and device.form == "fuse":
            forms = [(rect(x - 4, y, 8, 20), ""), (line(x, y, x, y + 20), "")]
        elif kind in ("contactor", "breaker", "button", "timer", "field"):
            if self.style == "ladder" and kind == "breaker":
                forms = breaker_na(x, y)
            elif self.style == "ladder" and kind == "contactor":
                forms = [(line(x, y, x, y + 6), ""), (line(x, y + 14, x, y + 20), ""), (line(x - 8, y + 6, x + 8, y + 6), ""), (line(x - 8, y + 14, x + 8, y + 14), ""),
                         (line(x, y + 6, x, y + 14), "closed")]  # fmt: skip
            else:
                forms = [(line(x, y + 20, x - 9, y + 2), "open"), (line(x, y + 20, x - 1, y), "closed")]
                if kind == "contactor":
                    forms.append((arc(x, y - 3, 3.2, 90, 270), ""))
                if kind == "breaker":
                    forms += [
                        (line(x - 3, y - 3, x + 3, y + 3, weight="hair"), ""),
                        (line(x - 3, y + 3, x + 3, y - 3, weight="hair"), ""),
                    ]
        elif kind == "overload" and self.style == "ladder":
            forms = heater_na(x, y)
        elif kind == "overload":
            t = y + 3
            forms = [
                (rect(x - 8, y, 16, 20), ""),
                (
                    line(
                        x + 2, y, x + 2, t + 3, x - 4, t + 3, x - 4, t + 11, x + 2, t + 11, x + 2, y + 20, weight="hair"
                    ),
                    "",
                ),
            ]
        elif kind == "transformer":
            forms = [(arc(x, y + 3.3 + 6.6 * i, 3.3, -90, 90), "") for i in range(3)]
        elif kind == "capacitor":
            forms = [
                (line(x, y, x, y + 7), ""),
                (line(x - 8, y + 7, x + 8, y + 7), ""),
                (line(x - 8, y + 13, x + 8, y + 13), ""),
                (line(x, y + 13, x, y + 20), ""),
            ]
        elif kind == "soft_starter":
            forms = [(line(x - 6, y + 4, x + 6, y + 4, x, y + 14, x - 6, y + 4, weight="hair"), ""), (line(x - 6, y + 14, x + 6, y + 14, weight="hair"), ""),
                     (line(x, y, x, y + 20, weight="hair"), "")]  # fmt: skip
        else:
            forms = [(rect(x - 5, y, 10, 20), "")]
        form = (
            f"_{device.form}"
            if device is not None and kind in ("breaker", "field") and device.form != "breaker"
            else ""
        )
        self.symbol(f"{kind}{form}_pole", part, e.device, (x, y), [Ink(s, part, when) for s, when in forms])

    def _frame(self, e: Element, path: int, level: float) -> None:
        """Name and link of the poles of one device."""
        x, y = self.x(path, 0), self.y(level) + 32
        device = self.c.devices.get(e.device)
        kind = device.kind if device else "resistor"
        three = [x for x in (f"{e.device}{n}" for n in (1, 2, 3)) if x in self.c.devices]
        name = e.device if device or not three else f"{three[0]}–{three[-1]}"
        self.marks.append(Ink(text(x - 14, y + 14, name, 10.5, "end"), f"label:{e.device}"))
        self.places.append(Place(f"device:{e.device}", path + 1, x + POLE, y + 10))
        said = {s.tag for s in self.spots}
        for k, tag in enumerate([e.device] if device or not three else three):  # one resistor for each line
            first = not k and tag not in said  # words once, though its poles stand in several places
            self.spots.append(Spot(f"device:{tag}", tag, x + POLE, y + 10, (x - 22, y + 24), "end", 9.5, worded=first))
        if kind in ("contactor", "breaker") and self.n == 3 and not (device and device.form == "fuse"):
            off = -4 if self.style == "columns" else 0
            self.marks.append(Ink(line(x + off, y + 11, self.x(path, 2) + off, y + 11, dashed=True, weight="hair")))
        if kind == "soft_starter" and self.n == 3:
            self.marks.append(Ink(rect(x - 12, y - 4, 2 * POLE + 24, 28, weight="hair")))

    def _motor(self) -> float:
        """The motor under its terminals; the height of its lower edge."""
        top = self.y(self.grid.levels) + 26
        xs = self.motor_xs
        if xs:
            low, high, motor = min(xs) - 22, max(xs) + 22, self.c.motor
            height = 46.0
            self.marks += [
                Ink(line(low + 18, top, high - 18, top), f"load:{motor}"), Ink(line(low + 18, top + height, high - 18, top + height), f"load:{motor}"),
                Ink(_side(low + 18, top, height, left=True), f"load:{motor}"), Ink(_side(high - 18, top, height, left=False), f"load:{motor}"),
                Ink(text((low + high) / 2, top + 22, motor, 12), f"label:{motor}"), Ink(text((low + high) / 2, top + 37, "3~" if self.n == 3 else "1~", 11)),
            ]  # fmt: skip
            self.places.append(Place(f"device:{motor}", 1, (low + high) / 2, top + 20))
            self.spots.append(
                Spot(f"device:{motor}", motor, (low + high) / 2, top + 20, ((low + high) / 2, top + 58), "middle")
            )
            top += height
        return top

    def _bars(self, attached: dict[str, dict[int, list[float]]], terminals: dict[tuple[str, int], str]) -> None:
        numbered: set[str] = set()
        for node, ways in attached.items():
            level = self.layout.level[node]
            if node.startswith("star"):
                xs = [x for found in ways.values() for x in found]
                self.way((min(xs), self.y(level), max(xs), self.y(level)), terminals[(node, 0)], 0)
                continue
            for index, found in ways.items():
                y = self.y(level) + self._offset(node, index)
                terminal = terminals[(node, index)]
                if max(found) > min(found):
                    self.way((min(found), y, max(found), y), terminal, index)
                    for x in found:
                        if len(found) > 2 or min(found) < x < max(found):
                            self.marks.append(Ink(circle(x, y, 2.1, filled=True)))
                number = self.c.number_of.get(terminal, "")
                if number and number not in numbered:
                    numbered.add(number)
                    self.marks.append(Ink(text(min(found) - 4, y - 2, number, 9, "end"), f"wire:{number}"))

    def _rail_words(self) -> None:
        for rail in self.rails:
            path = min(self.grid.bars[rail].paths)
            for pole in range(self.n):
                word = f"L{pole + 1}" if rail == "L{p}" else "KLM"[pole] if rail == "ring{p}" else rail
                self.marks.append(Ink(text(self.x(path, pole), TOP - 14, word, 11)))
            if rail == "ring{p}":
                self.marks.append(Ink(text(self.x(path, 1), TOP - 30, "rotor", 10)))

    def _interlocks(self) -> None:
        """The lever between two contactors that hold each other out: a dashed link with its triangle."""
        middle: dict[str, tuple[float, float]] = {}
        for p in self.places:
            name = p.part.removeprefix("device:")
            middle.setdefault(name, (p.x, p.y))
        for a, b in self.c.mechanical:
            if a in middle and b in middle:
                (xa, ya), (xb, yb) = middle[a], middle[b]
                y = max(ya, yb) + (34 if self.room else 22)  # below the words beside the devices
                m = (xa + xb) / 2
                self.marks += [
                    Ink(line(xa, ya + 6, xa, y, xb, y, xb, yb + 6, dashed=True, weight="hair"), "interlock"),
                    Ink(line(m - 5, y - 4, m + 5, y - 4, m, y + 5, m - 5, y - 4, weight="hair"), "interlock"),
                ]

    def _protective(self, low: float) -> float:
        """The protective conductor at the motor's frame, and the strip on the way to it; the height that this needs."""
        if not self.motor_xs:
            return low
        x = max(self.motor_xs) + 22
        y = self.y(self.grid.levels) + 49
        self.marks += [
            Ink(line(x - 4, y, x + 14, y, x + 14, y + 10), "wire:PE", conductor=self.colours.protective),
            Ink(line(x + 6, y + 10, x + 22, y + 10)), Ink(line(x + 9, y + 13, x + 19, y + 13)), Ink(line(x + 12, y + 16, x + 16, y + 16)),
            Ink(text(x + 26, y + 8, "PE", 9, "start"), "wire:PE"),
        ]  # fmt: skip
        strip, name = self.y(self.grid.levels) + 10, self.c.strip
        for at in sorted(set(self.motor_xs)):
            self.marks.append(Ink(circle(at, strip, 2.4), f"device:{name}"))
        self.marks.append(Ink(text(min(self.motor_xs) - 8, strip + 3, name, 9, "end"), f"label:{name}"))
        return y + 24

    def _monitor(self) -> float:
        """The phase monitor with the wires that it measures on; the width that this needs."""
        wires = [w for w in self.c.feed if w.b.partition(":")[0] == self.c.monitor]
        if not wires:
            return 0.0
        x, y = LEFT + self.width * max(self.grid.paths, 1) + 30, TOP + 40
        for k, w in enumerate(wires):
            at = x + 18 * k
            self.marks += [
                Ink(line(at, y - 16, at, y), f"wire:{w.number}", conductor=self.colours.feed(w), at=w.b),
                Ink(text(at, y - 20, w.number, 9), f"wire:{w.number}"), Ink(text(at, y + 10, w.b.partition(":")[2], 9)),
            ]  # fmt: skip
        wide = 18 * (len(wires) - 1)
        self.marks += [
            Ink(rect(x - 10, y, wide + 20, 30), f"device:{self.c.monitor}"),
            Ink(text(x + wide / 2, y + 24, f"{self.c.monitor} U<", 10), f"label:{self.c.monitor}"),
        ]
        self.places.append(Place(f"device:{self.c.monitor}", self.grid.paths + 1, x + wide / 2, y + 15))
        under = (x + wide / 2, y + 42)
        self.spots.append(Spot(f"device:{self.c.monitor}", self.c.monitor, x + wide / 2, y + 15, under, "middle"))
        return 60.0 + wide


def _side(x: float, y: float, height: float, *, left: bool) -> Shape:
    return arc(x, y + height / 2, height / 2, 90 if left else -90, 270 if left else 90)


def draw_power(circuit: Circuit, style: Style, school: str = "iec") -> CircuitDrawing:
    """The power circuit.

    Parameters
    ----------
    style : symbol family: ``columns`` with IEC symbols, ``ladder`` with North American ones
    school : of the wire colours
    """
    return PowerPen(circuit, style, Colours(circuit, school)).paint()
