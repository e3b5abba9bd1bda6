"""Logic of a circuit: energized loads for the positions of its devices, and how positions follow each other.

The same transitions serve the simulation, which gives them their times, and the proof, which takes them in every order.
"""

from collections import defaultdict
from collections.abc import Callable, Mapping
from functools import cached_property, lru_cache
from typing import Protocol

from volmek.core.circuit.model.behaviour import BEHAVIOURS, GOING_IN, GOING_OUT, HELD, IN, MOVING, OUT
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit, Load
from volmek.core.installation.control import greatest_earth_fault_share

#: Supply at its highest over rated, and least voltage at which a coil may pull in, over its own.
HIGHEST_SUPPLY, LEAST_PICK_UP = 1.1, 0.85
Positions = tuple[int, ...]


class Places(Protocol):
    """Positions of devices by their index."""

    def __getitem__(self, i: int, /) -> int:
        """Position of one."""
        ...


def _meets(circuit: Circuit) -> bool:
    """Some pole of the power circuit is on a node of the control circuit, so that it can seal in a coil."""
    node = circuit.node_of
    control = [c.terminals for c in circuit.contacts if c.side == "control"] + [x.terminals for x in circuit.loads]
    nodes = {node[t] for ends in control for t in ends} - {node[t] for s, t in circuit.sources.items() if s == RETURN}
    return any(node[t] in nodes for c in circuit.contacts if c.side == "power" for t in c.terminals)


class Engine:
    """A circuit ready to be asked.

    Parameters
    ----------
    circuit : as it is wired
    stuck : contacts that are always closed, by name; ``K1`` alone is a contactor whose poles are welded
    earthed_nodes : terminals that touch earth
    coarse : contactors are in or out, without the moments between
    """

    def __init__(
        self,
        circuit: Circuit,
        stuck: frozenset[str] = frozenset(),
        earthed_nodes: frozenset[str] = frozenset(),
        *,
        coarse: bool = False,
    ) -> None:
        self.circuit = circuit
        self.coarse = coarse
        self.names = list(circuit.devices)
        self.index = {name: i for i, name in enumerate(self.names)}
        self.kinds = [circuit.devices[n].kind for n in self.names]
        self.behaviours = [BEHAVIOURS[k] for k in self.kinds]
        self.welded = frozenset(s for s in stuck if ":" not in s)
        self.stuck_poles = frozenset(s for s in stuck if ":" in s)
        self.held = frozenset(c.device for c in circuit.contacts if c.name in self.stuck_poles and c.side == "power" and circuit.devices[c.device].kind == "contactor")  # fmt: skip
        poles_matter = circuit.source.from_lines and LIVE in circuit.sources and _meets(circuit)
        self.contacts = [c for c in circuit.contacts if c.side == "control" or (c.side == "power" and poles_matter)]
        self.always = 0
        self.masks: list[dict[int, int]] = [defaultdict(int) for _ in self.names]
        for bit, c in enumerate(self.contacts):
            if c.name in self.stuck_poles:
                self.always |= 1 << bit
                continue
            for position in range(6):
                if position in c.closed_in:
                    self.masks[self.index[c.device]][position] |= 1 << bit
        self._wire(earthed_nodes)
        self.loads = [x for x in circuit.loads if self.kinds[self.index[x.device]] in MOVING]
        self.shown = [x for x in circuit.loads if self.kinds[self.index[x.device]] not in MOVING]
        self._reach = lru_cache(maxsize=65536)(self._flooded)
        self._poles = lru_cache(maxsize=4096)(self._closed_poles)
        self._closed = lru_cache(maxsize=16384)(self._closed_mask)
        self._following = lru_cache(maxsize=4096)(self._next)
        self.locked = {
            self.index[a]: self.index[b]
            for pair in circuit.mechanical
            for a, b in (pair, pair[::-1])
            if a in self.index and b in self.index
        }

    def _wire(self, earthed_nodes: frozenset[str]) -> None:
        """Nodes of the control circuit, with those that touch earth joined to the earthed return, or kept apart between two live rails."""
        node = dict(self.circuit.node_of)
        self.earth: set[int] = set()
        self.earth_pulls_in = False
        if earthed_nodes and self.circuit.earthed and self.circuit.source.shares_earth_faults:
            share = greatest_earth_fault_share(self.circuit.source, self.circuit.supply)
            self.earth = {node[t] for t in earthed_nodes} if share else set()
            self.earth_pulls_in = share * HIGHEST_SUPPLY >= LEAST_PICK_UP
        elif earthed_nodes and self.circuit.earthed:
            back = node[self.circuit.sources[RETURN]]
            gone = {node[t] for t in earthed_nodes}
            node = {t: back if n in gone else n for t, n in node.items()}
        self.node = node
        self.live = {node[self.circuit.sources[LIVE]]} if LIVE in self.circuit.sources else set()
        if "LF5" in self.circuit.sources:
            self.live_heater = node[self.circuit.sources["LF5"]]
        if self.live and self.circuit.source.from_lines:
            self.live.add(node[self.circuit.sources[self.circuit.source.feeds[0]]])
        self.back = {node[self.circuit.sources[RETURN]]} if RETURN in self.circuit.sources else set()
        self.edges: dict[int, list[tuple[int, int]]] = defaultdict(list)
        for bit, c in enumerate(self.contacts):
            a, b = (node[t] for t in c.terminals)
            self.edges[a].append((b, bit))
            self.edges[b].append((a, bit))

    def between(self, starts: set[int], ends: set[int]) -> list[int]:
        """Masks of the contacts of every way from one set of nodes to another; only the least ones."""
        found: list[int] = []
        if starts & ends:
            return [0]

        def walk(at: int, seen: frozenset[int], mask: int) -> None:
            if at in ends:
                found.append(mask)
                return
            for following, bit in self.edges[at]:
                if following not in seen and following not in starts:
                    walk(following, seen | {following}, mask | (1 << bit))

        for start in starts:
            walk(start, frozenset(starts), 0)
        found.sort(key=int.bit_count)
        least: list[int] = []
        for mask in found:
            if not any(mask & m == m for m in least):
                least.append(mask)
        return least

    def _paths_of(self, load: Load) -> list[int]:
        """Masks that make a load live, either way round."""
        a, b = (self.node[t] for t in load.terminals)
        live, back = self.live, self.back
        if load in self.foreign:
            live = {self.node[self.circuit.sources["LF5"]]}
            back = {self.node[self.circuit.sources["NF5"]]}
        found: list[int] = []
        if a == b:
            return found
        for x, y in ((a, b), (b, a)):
            first, second = self.between(live, {x}), self.between({y}, back)
            found += [p | q for p in first for q in second]
        return sorted(set(found), key=int.bit_count)

    def closed(self, positions: Positions) -> int:
        """Mask of the closed contacts."""
        return self._closed(positions)

    def _closed_mask(self, positions: Positions) -> int:
        mask = self.always
        for table, position in zip(self.masks, positions, strict=True):
            mask |= table.get(position, 0)
        return mask

    @cached_property
    def paths(self) -> dict[Load, list[int]]:
        """For each load the masks that make it live."""
        return {x: self._paths_of(x) for x in (*self.loads, *self.shown)}

    @cached_property
    def short_paths(self) -> list[int]:
        """Masks that join live and return."""
        return self.between(self.live, self.back)

    def _joined_to(self, starts: set[int], mask: int) -> set[int]:
        """Nodes that closed contacts join to some others."""
        reached, queue = set(starts), list(starts)
        while queue:
            for following, bit in self.edges.get(queue.pop(), ()):
                if following not in reached and mask >> bit & 1:
                    reached.add(following)
                    queue.append(following)
        return reached

    def _flooded(self, mask: int) -> tuple[frozenset[str], frozenset[str], bool, frozenset[str]]:
        """Loads that move and that show, live for a mask of closed contacts; whether live and return are joined; loads that an earth fault leaves a share."""
        live, back = self._joined_to(self.live, mask), self._joined_to(self.back, mask)
        earth = self._joined_to(self.earth, mask) if self.earth else set()
        # Between two live rails nobody can count on F3 to open both at a fault of one: a fuse opens one side, a residual-current device none of them.
        if live & back:
            return frozenset(), frozenset(), True, frozenset()
        away = [
            self._joined_to({self.node[self.circuit.sources[s]]}, mask) if self.foreign else set()
            for s in ("LF5", "NF5")
        ]
        found: list[set[str]] = [set(), set()]
        for which, loads in enumerate((self.loads, self.shown)):
            for x in loads:
                one, other = away if x in self.foreign else (live, back)
                a, b = (self.node[t] for t in x.terminals)
                if (a in one and b in other) or (b in one and a in other):
                    found[which].add(x.device)
        partly: set[str] = set()
        if earth:
            rails = live | back
            for x in self.loads:
                a, b = (self.node[t] for t in x.terminals)
                if (a in earth and b in rails) or (b in earth and a in rails):
                    partly.add(x.device)
        return frozenset(found[0]), frozenset(found[1]), False, frozenset(partly - found[0])

    @cached_property
    def foreign(self) -> frozenset[Load]:
        """Loads on the heater's supply."""
        lamps = self.circuit.heater_lamps
        return frozenset(
            x for x in self.circuit.loads if self.circuit.devices[x.device].kind == "heater" or x.device in lamps
        )

    def live_loads(self, mask: int) -> frozenset[str]:
        """Designations of the coils, relays and inputs that are live; none when live and return are joined."""
        return self._reach(mask)[0]

    def acting(self, mask: int, position_of: Callable[[str], int]) -> frozenset[str]:
        """Loads that pull in or hold: those that are live, and those that the share of an earth fault holds in or even pulls in.

        Parameters
        ----------
        mask : closed contacts
        position_of : position of a device by its designation
        """
        live, _, _, partly = self._reach(mask)
        if not partly:
            return live
        return live | {x for x in partly if self.earth_pulls_in or position_of(x) in (IN, GOING_IN)}

    def shown_live(self, mask: int) -> frozenset[str]:
        """Designations of the lamps, buzzers and heaters that are live."""
        return self._reach(mask)[1]

    def short_way(self, mask: int) -> list[str]:
        """Contacts on the shortest way from live to return that has no load, then the wires that would burn on it."""
        way = next((m for m in self.short_paths if mask & m == m), None)
        if way is None:
            return []
        ends = [t for bit, c in enumerate(self.contacts) if way >> bit & 1 for t in c.terminals]
        back = [self.circuit.sources[RETURN], self.circuit.sources[LIVE]]
        return list(dict.fromkeys(n for t in (*ends, *back) if (n := self.circuit.number_of.get(t, ""))))

    def control_short(self, mask: int) -> bool:
        """Live side and return are joined without a load between them."""
        return self._reach(mask)[2]

    def closed_poles(self, positions: Positions, *, arcing: bool = False) -> frozenset[str]:
        """Names of the closed contacts of the power circuit; parting poles count where arcs do."""
        return self._poles(positions, arcing)

    def _closed_poles(self, positions: Positions, arcing: bool) -> frozenset[str]:
        found = set(self.stuck_poles)
        for c in self.circuit.contacts:
            if c.side != "power":
                continue
            at = positions[self.index[c.device]]
            if at in c.closed_in or (arcing and at == GOING_OUT and IN in c.closed_in):
                found.add(c.name)
        return frozenset(found)

    def at_rest(self) -> Positions:
        """State without power, nothing operated: breakers closed, phases healthy."""
        found: list[int] = []
        for name, behaviour in zip(self.names, self.behaviours, strict=True):
            behind = self.circuit.monitor_behind and self.circuit.devices[name].kind == "monitor"
            found.append(IN if name in self.welded else HELD if name in self.held else 0 if behind else behaviour.rest)
        return tuple(found)

    def follows(self, i: int, position: int, live: bool, positions: Places) -> int | None:
        """Next position of a device, None while it does not move."""
        if self.names[i] in self.welded:
            return None
        other = self.locked.get(i)
        return self._following(i, position, live, other is not None and positions[other] != OUT)

    def _next(self, i: int, position: int, live: bool, locked: bool) -> int | None:
        held = self.names[i] in self.held
        return self.behaviours[i].follows(position, live=live, held=held, locked=locked, coarse=self.coarse)

    def moves(self, positions: Positions, *, supplied: bool = True) -> list[tuple[int, int]]:
        """Devices that are about to move by themselves, with the position that follows."""
        live = self.acting(self.closed(positions), lambda x: positions[self.index[x]]) if supplied else frozenset()
        found = []
        for load in self.loads:
            i = self.index[load.device]
            following = self.follows(i, positions[i], load.device in live, positions)
            if following is not None:
                found.append((i, following))
        return found

    def where(self, positions: Positions) -> Mapping[str, int]:
        """Positions by designation."""
        return dict(zip(self.names, positions, strict=True))
