"""Layout of a control circuit: a grid of paths and levels, the same for columns and for ladder rungs.

Every line of the circuit runs in a path of its own from the level of the node where it begins to that where it ends;
contacts stand as high as they can, loads as low. The drawing turns paths into columns or into rungs.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal

from volmek.core.circuit.model.netlist import LIVE, Circuit
from volmek.core.circuit.model.notation import Element, Item, Line, Node, Parallel, Terminal


@dataclass(frozen=True, slots=True)
class Placed:
    """A contact or load on the grid: path across, level along."""

    element: Element
    path: int
    level: int


@dataclass(frozen=True, slots=True)
class Run:
    """A piece of wire along one path, from one level to another; the terminal identifies the wire."""

    path: int
    begin: float
    end: float
    terminal: str


@dataclass
class Bar:
    """A wire across paths at one level; wires that would lie on each other have lanes."""

    level: float
    terminal: str
    paths: set[int] = field(default_factory=set)
    lane: int = 0


#: Ends the name of the node at which a way stops that goes on beside it.
FOLD = "^"


@dataclass
class Grid:
    """A laid-out control circuit; at a fold a way stops under the node's name with ``FOLD`` and begins again under the name."""

    placed: list[Placed] = field(default_factory=list)
    runs: list[Run] = field(default_factory=list)
    bars: dict[str, Bar] = field(default_factory=dict)
    paths: int = 0
    levels: int = 0
    tops: dict[tuple[int, int], str] = field(default_factory=dict)
    feet: dict[tuple[int, int], str] = field(default_factory=dict)
    folds: tuple[str, ...] = ()

    def lane(self, path: int, level: float, *, top: bool) -> int:
        """Lane of the wire at which something in a path begins or ends."""
        key = (self.tops if top else self.feet).get((path, int(level)))
        return self.bars[key].lane if key else 0


def _length(line: tuple[Item, ...]) -> int:
    return sum(_size(item) for item in line)


def _size(item: Item) -> int:
    if isinstance(item, Element):
        return 1
    if isinstance(item, Parallel):
        return max(_length(b) for b in item.branches)
    return 0


def _width(line: tuple[Item, ...]) -> int:
    return max((sum(_width(b) for b in item.branches) for item in line if isinstance(item, Parallel)), default=1)


def _inner(items: tuple[Item, ...], level: int) -> Iterator[tuple[str, int]]:
    """Named nodes within branches, with their levels."""
    for item in items:
        if isinstance(item, Parallel):
            for branch in item.branches:
                at = level
                for part in branch:
                    if isinstance(part, Node):
                        yield part.name, at
                    at += _size(part)
                yield from _inner(branch, level)
        level += _size(item)


@dataclass(frozen=True, slots=True)
class Piece:
    """A line cut at its named nodes: it begins at one and ends at another."""

    begin: str
    items: tuple[Item, ...]
    end: str


def pieces(lines: tuple[Line, ...]) -> list[Piece]:
    """Lines cut at the nodes they pass; a node inside a branch is left to the branch."""
    found: list[Piece] = []
    for number, line in enumerate(lines):
        begin = ""
        items: list[Item] = []
        for item in line:
            if isinstance(item, Node):
                if items or begin:
                    found.append(Piece(begin or f"~{number}", tuple(items), item.name))
                begin, items = item.name, []
            elif not isinstance(item, Terminal):
                items.append(item)
        if items:
            found.append(Piece(begin, tuple(items), f"~end{number}"))
    return [p for p in found if p.items or p.begin != p.end]


class Layout:
    """Levels and paths for the lines of a circuit."""

    def __init__(
        self,
        lines: tuple[Line, ...],
        rails: tuple[str, ...],
        ends: tuple[str, ...],
        number_of: Mapping[str, str] | None = None,
        deepest: int | None = None,
    ) -> None:
        self.rails, self.ends = rails, ends
        self.number_of = number_of or {}
        same: dict[str, str] = {}
        cut = pieces(lines)
        for p in cut:  # a piece without anything on it makes two names of one node
            if not p.items:
                a, b = self.name(same, p.begin), self.name(same, p.end)
                if a != b:
                    same[b] = a
        self.pieces = [Piece(self.name(same, p.begin), p.items, self.name(same, p.end)) for p in cut if p.items]
        self.same = same
        self._lay_out()
        while deepest is not None and self.grid.levels > deepest and self._fold(deepest):
            self._lay_out()

    def _lay_out(self) -> None:
        self.grid = Grid(folds=tuple(x for x in self.rails if f"{x}{FOLD}" in {p.end for p in self.pieces}))
        self._levels()
        self._paths()
        self._lanes()

    def _fold(self, deepest: int) -> bool:
        """Cut the longest way from a rail in two, so that its second part begins beside the first; False where it cannot be cut."""
        chain: list[Piece] = []
        at: str | None = next((e for e in self.ends if any(p.end == e for p in self.pieces)), None)
        while at is not None and at not in self.rails:
            before = [p for p in self.pieces if p.end == at or (at in self.ends and p.end in self.ends)]
            last = max(before, key=lambda p: self.level[p.begin] + _length(p.items), default=None)
            if last is None or last in chain:
                break
            chain.insert(0, last)
            at = last.begin
        inner = {name for p in self.pieces for name, _ in _inner(p.items, 0)}
        best: tuple[int, Piece, int] | None = None
        gone = 0
        for p in chain:
            for k, item in enumerate(p.items):
                gone += _size(item)
                free = k + 1 < len(p.items) or (p.end not in inner and p.end not in self.ends)
                if free and gone < deepest and gone < self.grid.levels - 1:
                    best = (gone, p, k + 1)
        if best is None:
            return False
        _, p, k = best
        node = p.end if k == len(p.items) else f"~{len(self.rails)}"
        if k < len(p.items):
            self.pieces[self.pieces.index(p)] = Piece(p.begin, p.items[:k], node)
            self.pieces.append(Piece(node, p.items[k:], p.end))
        self.pieces = [Piece(q.begin, q.items, f"{node}{FOLD}") if q.end == node else q for q in self.pieces]
        self.rails = (*self.rails, node)
        return True

    @staticmethod
    def name(same: dict[str, str], node: str) -> str:
        while node in same:
            node = same[node]
        return node

    def _levels(self) -> None:
        self.level: dict[str, int] = dict.fromkeys(self.rails, 0)
        for _ in range(len(self.pieces) + 1):
            changed = False
            for p in self.pieces:
                if p.begin in self.level or p.begin in self.rails:
                    for name, at in _inner(p.items, self.level.get(p.begin, 0)):
                        if self.level.get(name, -1) < at:
                            self.level[name] = at
                            changed = True
                wanted = self.level.get(p.begin, 0) + _length(p.items)
                if p.end not in self.ends and self.level.get(p.end, -1) < wanted:
                    self.level[p.end] = wanted
                    changed = True
            if not changed:
                break
        for p in self.pieces:
            self.level.setdefault(p.begin, 0)
        ways = [self.level.get(p.begin, 0) + _length(p.items) + p.end.endswith(FOLD) for p in self.pieces]
        bottom = max([*ways, 1])  # a way that is folded ends above the rail
        for end in self.ends:
            self.level[end] = bottom
        self.grid.levels = bottom

    def _paths(self) -> None:
        self.done: set[int] = set()
        self.seen: set[str] = set()
        free = 0
        for rail in self.rails:
            free = self._node(rail, free)
        for k, p in enumerate(self.pieces):  # what hangs on nothing that was reached
            if k not in self.done:
                free = self._node(p.begin, free)
        self.grid.paths = free

    def _lanes(self) -> None:
        """Wires of different nodes at one level that would lie on each other get lanes below each other."""
        wires: dict[tuple[float, str], list[Bar]] = {}
        for name, bar in self.grid.bars.items():
            wires.setdefault((bar.level, self.number_of.get(bar.terminal) or name), []).append(bar)
        taken: dict[float, list[tuple[int, int, int]]] = {}
        for (level, _), bars in sorted(wires.items(), key=lambda x: (x[0][0], min(min(b.paths) for b in x[1]))):
            paths = set().union(*(b.paths for b in bars))
            low, high = min(paths), max(paths)
            lane = 0
            while any(lane == k and not (high < a or low > z) for a, z, k in taken.get(level, [])):
                lane += 1
            taken.setdefault(level, []).append((low, high, lane))
            for bar in bars:
                bar.lane = lane
        for name in self.grid.folds:  # what goes on from elsewhere stands clear of the rail beside it
            self.grid.bars[name].lane = max(self.grid.bars[name].lane, 2)

    def _node(self, node: str, path: int) -> int:
        """Lay out every piece that begins at a node; the next free path."""
        if node in self.seen:
            return path
        self.seen.add(node)
        free = path
        for k, p in enumerate(self.pieces):
            if p.begin != node or k in self.done:
                continue
            self.done.add(k)
            at = free
            self._piece(p, at)
            free = at + _width(p.items)
            if p.end not in self.ends:
                free = max(free, self._node(p.end, at))
        return max(free, path + 1) if any(p.begin == node for p in self.pieces) else path

    def _piece(self, p: Piece, path: int) -> None:
        begin, end = self.level[p.begin], self.level[p.end]
        first = self._end(p.items, 0)
        last = self._end(p.items, -1)
        self._bar(p.begin, begin, path, first)
        self._bar(p.end, end, path, last)
        self.grid.tops[(path, begin)] = p.begin
        self.grid.feet[(path, end)] = p.end
        self._series(p.items, path, begin, end)

    def _bar(self, node: str, level: float, path: int, terminal: str) -> None:
        bar = self.grid.bars.setdefault(node, Bar(level, terminal))
        bar.paths.add(path)

    @staticmethod
    def _end(items: tuple[Item, ...], at: Literal[0, -1]) -> str:
        """The terminal with which they begin (0) or end (-1), empty where a node's name is there."""
        item = items[at]
        if isinstance(item, Element):
            return item.terminals[at]
        return Layout._end(item.branches[0], at) if isinstance(item, Parallel) else ""

    def _series(self, items: tuple[Item, ...], path: int, begin: int, end: int) -> None:
        """Contacts from the top, loads at the bottom, wires in between."""
        at_node = begin
        for k, item in enumerate(items):
            if isinstance(item, Node) and k:
                self._bar(item.name, at_node, path, self._end(items[:k], -1))
                self.grid.feet[(path, at_node)] = item.name
            at_node += _size(item)
        items = tuple(i for i in items if not isinstance(i, Node | Terminal))
        loads = [k for k, i in enumerate(items) if isinstance(i, Element) and i.load]
        low = end - (_length(items[loads[0] :]) if loads else 0)
        at = begin
        edge: float = begin
        for k, item in enumerate(items):
            if loads and k == loads[0]:
                at = max(at, low)
            if isinstance(item, Element):
                self.grid.runs.append(Run(path, edge, at, item.terminals[0]))
                self.grid.placed.append(Placed(item, path, at))
                at += 1
                edge = at
                tail = item.terminals[1]
            elif isinstance(item, Parallel):
                size = _size(item)
                tail = self._end((item,), -1)
                if edge < at or k:
                    self.grid.runs.append(Run(path, edge, at, self._end((item,), 0)))
                across = path
                for branch in item.branches:
                    self._branch(branch, across, at, at + size, path)
                    across += _width(branch)
                at += size
                edge = at
        self.grid.runs.append(Run(path, edge, end, tail))

    def _branch(self, branch: tuple[Item, ...], path: int, begin: int, end: int, trunk: int) -> None:
        self._series(branch, path, begin, end)
        if path != trunk:
            for level, terminal in ((begin, self._end(branch, 0)), (end, self._end(branch, -1))):
                key = f"|{terminal}|{level}"
                bar = self.grid.bars.setdefault(key, Bar(level, terminal))
                bar.paths |= {trunk, path}


def lay_out(circuit: Circuit, deepest: int | None = None) -> Grid:
    """Grid of the control circuit.

    Parameters
    ----------
    deepest : levels that the paper has room for; a longer way is folded

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.document.model import parse
    >>> grid = lay_out(circuit_of(parse({"tag": "A"})))
    >>> grid.paths, grid.levels
    (2, 4)
    """
    heater = "LF5" in circuit.sources
    rails = (LIVE, "LF5") if heater else (LIVE,)
    ends = ("0", "NF5") if heater else ("0",)
    return Layout(circuit.lines, rails, ends, circuit.number_of, deepest).grid
