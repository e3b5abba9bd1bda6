"""Checks a certificate of proofs by itself: that its set of states holds the state at rest, that no move leaves it, and what it meets.

It reads the netlist of the certificate and works out contacts, coils and moves anew. What it can say of a rule depends on the set alone: a rule that
speaks of states is confirmed where the set meets none of those that break it, and a verdict that the set contradicts is refused.
"""

import hashlib
import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import product
from typing import Any

#: Of the table of behaviour that this checker knows.
BEHAVIOUR = "a8e15a2c2b1f3ccb4a1dcf053ee3de5ad53224872ad416d63a3085fd5bc6f30e"
COILS = ("contactor", "relay", "timer", "star_delta_timer", "soft_starter")
OUT, IN, GOING_OUT = 0, 2, 3
SUPPLY = ""


class RefusedError(ValueError):
    """The certificate does not prove what it says."""


@dataclass
class Checked:
    """What was found.

    Attributes
    ----------
    confirmed : rules that hold by the certificate's set of states
    taken : rules of which this checker says nothing
    states : in the set
    """

    confirmed: list[str]
    taken: list[str]
    states: int


class Sets:
    """Sets of states as diagrams of decisions, by one operation: if, then, else."""

    def __init__(self) -> None:
        self.at: list[tuple[int, int, int]] = [(1 << 30, 0, 0), (1 << 30, 1, 1)]
        self.known: dict[tuple[int, int, int], int] = {}
        self.done: dict[tuple[int, int, int], int] = {}

    def node(self, level: int, low: int, high: int) -> int:
        if low == high:
            return low
        key = (level, low, high)
        if key not in self.known:
            self.known[key] = len(self.at)
            self.at.append(key)
        return self.known[key]

    def ite(self, f: int, g: int, h: int) -> int:
        if f < 2 or g == h:
            return g if f or g == h else h
        if (f, g, h) not in self.done:
            top = min(self.at[x][0] for x in (f, g, h))
            low, high = (
                self.ite(*(self.at[x][side] if self.at[x][0] == top else x for x in (f, g, h))) for side in (1, 2)
            )
            self.done[f, g, h] = self.node(top, low, high)
        return self.done[f, g, h]

    def all(self, sets: Iterable[int]) -> int:
        found = 1
        for s in sets:
            found = self.ite(found, s, 0)
        return found

    def any(self, sets: Iterable[int]) -> int:
        found = 0
        for s in sets:
            found = self.ite(found, 1, s)
        return found

    def less(self, a: int, b: int) -> int:
        return self.ite(b, 0, a)

    def count(self, f: int, bits: int, level: int = 0) -> int:
        """States of a set over so many bits, numbered from 0."""
        at, low, high = self.at[f]
        if f < 2:
            return f << (bits - level)
        return (self.count(low, bits, at + 1) + self.count(high, bits, at + 1)) << (at - level)

    def given(self, f: int, bits: dict[int, int], known: dict[int, int] | None = None) -> int:
        """What is left when some bits have their values."""
        known = {} if known is None else known
        if f not in known:
            level, low, high = self.at[f]
            if f < 2:
                known[f] = f
            elif level in bits:
                known[f] = self.given(high if bits[level] else low, bits, known)
            else:
                known[f] = self.node(level, self.given(low, bits, known), self.given(high, bits, known))
        return known[f]


class Checker:
    """One certificate.

    Parameters
    ----------
    data : as JSON gave it

    Raises
    ------
    RefusedError : it is no certificate, or its digest or its variables do not fit its netlist.
    """

    def __init__(self, data: dict[str, Any]) -> None:
        if data.get("certificate") != "volmek proof" or data.get("version") != 1:
            raise RefusedError("this is no certificate that this version can check")
        self.data, self.n, self.s = data, data["netlist"], Sets()
        if digest([self.n, data["behaviour"]]) != data["digest"]:
            raise RefusedError("the digest does not fit the netlist: it was changed after the proof")
        if digest(data["behaviour"]) != BEHAVIOUR:
            raise RefusedError("devices behave otherwise here than this checker knows")
        self.kind = {name: d["kind"] for name, d in self.n["devices"].items()}
        self._variables()
        self._nodes()
        closed = [self.where(device, *positions) for _, device, _, _, positions, _ in self.n["contacts"]]
        live, back = self._joined(self.n["live"], closed), self._joined(self.n["return"], closed)
        supplied = self.where(SUPPLY, 1)
        alive = self.s.less(supplied, self.s.any(live.get(self.node[t], 0) for t in self.n["return"]))
        self.acting: dict[str, int] = {}
        for device, a, b in self.n["loads"]:
            if self.kind[device] in COILS:
                x, y = self.node[a], self.node[b]
                way = self.s.any(self.s.all((p.get(x, 0), q.get(y, 0))) for p, q in ((live, back), (back, live)))
                self.acting[device] = self.s.any((self.acting.get(device, 0), self.s.all((alive, way))))
        self.moves = list(self._own())

    # Variables and conditions

    def _variables(self) -> None:
        """Each input with every position that it has, each coil with every position that it comes to, on bits of their own."""
        self.levels: dict[str, tuple[list[int], list[int]]] = {}
        bits: list[int] = []
        for v in self.data["variables"]:
            self.levels[v["device"]] = (v["positions"], v["levels"])
            bits += v["levels"]
            if len(set(v["positions"])) != len(v["positions"]) or len(v["positions"]) > 1 << len(v["levels"]):
                raise RefusedError(f"the positions of {v['device'] or 'the supply'} do not fit their bits")
        if len(set(bits)) != len(bits):
            raise RefusedError("two variables share a bit")
        touched = {device for _, device, _, _, _, side in self.n["contacts"] if side == "control"}
        wired = {t for _, a, b in self.n["wires"] for t in (a, b)}
        used = {d for _, d, a, b, _, side in self.n["contacts"] if side == "control" and a in wired and b in wired}
        for name in sorted((used & touched) | {d for d, _, _ in self.n["loads"] if self.kind[d] in COILS} | {SUPPLY}):
            given, wanted = set(self.levels.get(name, ((), ()))[0]), self._positions(name)
            if not wanted <= given:
                raise RefusedError(f"{name or 'the supply'} has positions that the certificate leaves out")

    def _positions(self, name: str) -> set[int]:
        if name == SUPPLY:
            return {0, 1}
        kind, device = self.kind[name], self.n["devices"][name]
        if kind in COILS:
            found = {0}
            for _ in range(6):
                found |= {after for at, _, _, after in self.data["behaviour"][kind] if at in found}
            return found if any(d == name for d, _, _ in self.n["loads"]) else set()
        if kind in ("button", "emergency_stop"):
            return {0, 2}
        if kind == "selector":
            return set(range(device["positions"]))
        if kind == "breaker":
            return {1, 2} if device["form"] == "motor_breaker" else {0, 1}
        return {0, 1} if kind in ("overload", "monitor", "field") else set()

    def _bits(self, name: str, position: int) -> dict[int, int]:
        positions, levels = self.levels[name]
        k = positions.index(position)
        return {level: (k ^ k >> 1) >> n & 1 for n, level in enumerate(levels)}

    def where(self, name: str, *wanted: int) -> int:
        """States in which a device is in one of some positions; one without a variable is where it rests."""
        if name not in self.levels:
            rest = 1 if self.kind.get(name) in ("breaker", "monitor") else 0
            return int(rest in wanted)
        return self.s.any(self._cube(self._bits(name, p)) for p in wanted if p in self.levels[name][0])

    def _cube(self, bits: dict[int, int]) -> int:
        return self.s.all(self.s.node(level, 1 - bit, bit) for level, bit in bits.items())

    def _nodes(self) -> None:
        top = tops([(a, b) for _, a, b in self.n["wires"]])
        ends = [t for c in self.n["contacts"] for t in c[2:4]] + [t for x in self.n["loads"] for t in x[1:]]
        ends += [t for w in self.n["windings"] for t in w[1:3]] + [
            *self.n["live"],
            *self.n["return"],
            *self.n["lines"].values(),
        ]
        self.node = {t: top(t) for t in {*ends, *(t for _, a, b in self.n["wires"] for t in (a, b))}}

    def _joined(self, starts: list[str], closed: list[int]) -> dict[str, int]:
        """For each node the states in which closed contacts join it to one of some others."""
        found = {self.node[t]: 1 for t in starts}
        changed = True
        while changed:
            changed = False
            for (_, _, a, b, _, _), when in zip(self.n["contacts"], closed, strict=True):
                for x, y in ((self.node[a], self.node[b]), (self.node[b], self.node[a])):
                    more = self.s.any((found.get(y, 0), self.s.all((found.get(x, 0), when))))
                    if more != found.get(y, 0):
                        found[y], changed = more, True
        return found

    def _own(self) -> Iterable[tuple[str, int, int, int]]:
        """Moves of coils: device, from, to, and the states in which it may."""
        lever = {a: b for x, y in self.n["levers"] for a, b in ((x, y), (y, x))}
        for name, acting in self.acting.items():
            held = self.s.less(1, self.where(lever[name], OUT)) if name in lever else 0
            for at, live, locked, after in self.data["behaviour"][self.kind[name]]:
                guard = self.s.all(
                    (acting if live else self.s.less(1, acting), held if locked else self.s.less(1, held))
                )
                if at in self.levels[name][0] and guard:
                    yield name, at, after, guard

    def _inputs(self) -> Iterable[tuple[str, int, int, int]]:
        """Moves of inputs: from each position to each other; a monitor behind the contactor sees phases only while one is in."""
        for name, (positions, _) in self.levels.items():
            if name == SUPPLY or self.kind[name] not in COILS:
                for at, after in product(positions, positions):
                    behind = name == self.n["monitor"] and self.n["monitor_behind"] and after
                    if at != after:
                        yield name, at, after, self.s.any(self.where(f, IN) for f in self.n["feeders"]) if behind else 1

    # The set, and what it says

    def check(self) -> Checked:
        """Everything.

        Raises
        ------
        RefusedError : the set is left by a move, or a verdict is not what the set says.
        """
        s, number = self.s, [0, 1]
        for level, low, high in self.data["diagram"]:
            if (
                not 0 <= low < len(number)
                or not 0 <= high < len(number)
                or min(s.at[number[low]][0], s.at[number[high]][0]) <= level
            ):
                raise RefusedError("the diagram of states is not in order")
            number.append(s.node(level, number[low], number[high]))
        self.reached = reached = number[self.data["reached"]]
        start = s.all(self._cube(self._bits(name, positions[0])) for name, (positions, _) in self.levels.items())
        self._at_rest()
        if s.less(start, reached):
            raise RefusedError("the set of states leaves out the state at rest")
        for name, at, after, guard in (*self.moves, *self._inputs()):
            if s.less(self._moved(reached, name, at, after, guard), reached):
                raise RefusedError(
                    f"{name or 'the supply'} leaves the set of states: it does not hold all that can come"
                )
        bad = self._bad()
        confirmed, taken = [], []
        for rule in self.data["rules"]:
            name, states = rule["rule"], bad.get(rule["rule"])
            if states is None:
                taken.append(name)
            elif rule["holds"] is True and s.all((reached, states())):
                raise RefusedError(f"{name} is said to hold, but the set meets states that break it")
            elif rule["holds"] is False and not s.all((reached, states())):
                raise RefusedError(f"{name} is said to be broken, but no state that can come breaks it")
            elif rule["holds"] is True:
                confirmed.append(name)
            else:
                taken.append(name)
        if self.data["states"] != s.count(reached, sum(len(levels) for _, levels in self.levels.values())):
            raise RefusedError("the set does not hold as many states as the certificate says")
        return Checked(confirmed, taken, self.data["states"])

    def _at_rest(self) -> None:
        """Each variable begins where its device rests: breakers closed, phases healthy, all else untouched."""
        for name, (positions, _) in self.levels.items():
            alone = name == SUPPLY or self.kind[name] in ("breaker", "monitor")
            rest = 0 if name == self.n["monitor"] and self.n["monitor_behind"] else int(alone)
            if positions[0] != rest:
                raise RefusedError(f"{name or 'the supply'} does not begin where it rests")

    def _bad(self) -> dict[str, Callable[[], int]]:
        """States that break each rule that this checker knows."""
        s, n = self.s, self.n
        moving = s.any(s.all((self.where(name, at), guard)) for name, at, _, guard in self.moves)
        coils = s.any(self.acting.get(k, 0) for k in n["power_contactors"])

        def acts(name: str) -> int:
            idle = {"breaker": {1}, "monitor": {1}, "selector": {*range(1, 9)}}.get(self.kind[name], {0})
            return self.where(name, *(p for p in self.levels.get(name, ([], []))[0] if p not in idle))

        def stays(names: list[str]) -> int:
            on = s.any((coils, self._power(arcing=False, shorts=False)))
            return s.less(s.all((s.any(map(acts, names)), on)), moving)

        of_kind = [x for x, kind in self.kind.items() if kind == "emergency_stop"]
        # What a transformer's windings stand needs more than lines that meet; so does a control supply that outlives the motor's.
        beyond = {"no_power_short"} if any(w[3] == "transformer" for w in n["windings"]) else set[str]()
        beyond |= {"no_self_start"} if n["outlives_power"] else set()
        known: dict[str, Callable[[], int]] = {
            "no_power_short": lambda: self._power(arcing=True, shorts=True),
            "no_self_start": lambda: self._starts(s.any((coils, self._power(arcing=False, shorts=False))), moving),
            "forbidden_pairs_exclusive": lambda: s.any(s.all((self.acting.get(a, 0), self.acting.get(b, 0))) for a, b in n["forbidden"]),
            "stop_drops_all": lambda: stays(n["stops"]),
            "emergency_stop_drops_all": lambda: stays(of_kind),
            "overload_drops_all": lambda: stays(n["overloads"]),
            "phase_monitor_drops_all": lambda: stays([n["monitor"]]),
        }  # fmt: skip
        return {rule: states for rule, states in known.items() if rule not in beyond}

    def _starts(self, on: int, moving: int) -> int:
        """States in which it has started though only something came back: at the beginning, or from rest with all buttons released and all out."""
        s, n = self.s, self.n
        start = s.all(self._cube(self._bits(name, positions[0])) for name, (positions, _) in self.levels.items())
        still = [self.where(x, 0) for x in (*n["starts"], *n["power_contactors"])]
        before = s.less(s.all((self.reached, *still)), moving)
        back = {x for x in (SUPPLY, *n["stops"], *n["overloads"], n["monitor"]) if self.kind.get(x) != "selector"}
        back |= {x for x, kind in self.kind.items() if kind == "emergency_stop"}
        came = [s.all((start, self.reached))]
        for name, at, after, guard in self._inputs():
            if name in back and after == (1 if name == n["monitor"] else self.levels[name][0][0]):
                came.append(self._moved(before, name, at, after, guard))
        states, last = s.any(came), -1
        while states != last:
            last = states
            for move in self.moves:
                states = s.any((states, self._moved(states, *move)))
        return s.all((states, on))

    def _moved(self, states: int, name: str, at: int, after: int, guard: int) -> int:
        """States after a move."""
        left = self.s.given(self.s.all((states, guard)), self._bits(name, at))
        return self.s.all((left, self._cube(self._bits(name, after))))

    def _power(self, *, arcing: bool, shorts: bool) -> int:
        """States in which closed poles join two lines, or put two lines on the motor: parting poles count where they arc."""
        poles = [c for c in self.n["contacts"] if c[5] == "power"]
        devices = sorted({c[1] for c in poles})
        ways = [
            sorted(set(self.levels.get(d, ([int(self.kind[d] in ("breaker", "monitor"))], []))[0])) for d in devices
        ]
        found, seen = 0, dict[frozenset[str], bool]()
        for at in product(*ways):
            where = dict(zip(devices, at, strict=True))
            names = frozenset(
                c[0]
                for c in poles
                if where[c[1]] in c[4]
                or (arcing and where[c[1]] == GOING_OUT and IN in c[4] and self.kind[c[1]] == "contactor")
            )
            if names not in seen:
                seen[names] = self._meets(names, poles, through=not shorts)
            if seen[names]:
                found = self.s.any((found, self.s.all(self.where(d, p) for d, p in where.items())))
        return found

    def _meets(self, closed: frozenset[str], poles: list[list[Any]], *, through: bool) -> bool:
        """Two lines meet through poles, or through windings too."""
        pairs = [(a, b) for name, _, a, b, _, _ in poles if name in closed]
        pairs += [(a, b) for _, a, b, _ in self.n["windings"]] if through else []
        top = tops([(self.node[a], self.node[b]) for a, b in pairs])
        lines = [top(self.node[t]) for t in self.n["lines"].values()]
        return len(set(lines)) < len(lines)


def tops(pairs: list[tuple[str, str]]) -> Callable[[str], str]:
    """One of each group of names that pairs join, by any of its names."""
    root: dict[str, str] = {}

    def top(t: str) -> str:
        while root.setdefault(t, t) != t:
            t = root[t]
        return t

    for a, b in pairs:
        root[top(a)] = top(b)
    return top


def digest(data: object) -> str:
    """Digest of plain data, however it was ordered."""
    return hashlib.sha256(json.dumps(data, sort_keys=True, separators=(",", ":")).encode()).hexdigest()


def check(data: dict[str, Any]) -> Checked:
    """A certificate, whole.

    Parameters
    ----------
    data : as JSON gave it

    Raises
    ------
    RefusedError : it does not prove what it says, or cannot be read.
    """
    try:
        return Checker(data).check()
    except (KeyError, TypeError, IndexError, ValueError) as error:
        if isinstance(error, RefusedError):
            raise
        raise RefusedError(f"the certificate cannot be read: {error!r}") from None
