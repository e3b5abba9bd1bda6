"""Rules with the times of the devices: every order of pull-in and drop-out that their bounds leave, and no other.

What is due has a clock. A tick moves all clocks on together, and waits while something is due that cannot wait longer; a move needs its least time.
Bounds are whole ticks and include their ends, so that states at whole ticks are all that matter.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from math import ceil, floor, inf

from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.power import PowerNet
from volmek.core.circuit.model.behaviour import HALF, PRESSED, REST, STEPS
from volmek.core.circuit.model.times import COIL_WORDS, Bounds, CoilKind
from volmek.core.circuit.proof.diagrams import ALL, NONE, CutShort, Diagrams
from volmek.core.circuit.proof.model import SUPPLY, Model, Move, Variable
from volmek.core.circuit.proof.own import OwnRules, read_rule
from volmek.core.circuit.proof.rules import Decide, Nearest, Proof
from volmek.core.circuit.proof.search import Search

#: Times longer than this are those of timers and ramps; a clock counts no further [ms].
LONG_MS = 160.0
#: Least length of a tick, and most ticks that a clock counts: longer times have longer ticks.
LEAST_TICK_MS, MOST_TICKS = 2.0, 31
#: Steps in words.
WORDS = {
    "break_contacts_open": "opens its break contacts", "poles_close": "pulls in", "poles_open": "drops out",
    "break_contacts_close": "closes its break contacts",
}  # fmt: skip
#: Stands for the time that goes on, among the indices of the devices.
CLOCK = -2
TICK = Move(Variable(CLOCK, (), ()), 0, 0, ALL, own=True)


class Clock:
    """The bits of one device that count its ticks.

    Parameters
    ----------
    first, width : its levels
    most : where it stops counting
    """

    def __init__(self, d: Diagrams, first: int, width: int, most: int) -> None:
        self.d, self.first, self.width, self.most = d, first, width, most

    def at_least(self, ticks: int) -> int:
        """States in which it has counted so many."""
        return self._made([ALL if n >= ticks else NONE for n in range(1 << self.width)])

    def reset(self, states: int) -> int:
        """States after it was set to 0."""
        return self._mapped(states, lambda old: [self.d.any_of(old), *[NONE] * (len(old) - 1)])

    def before_reset(self, states: int) -> int:
        """States that are some others after it was set to 0."""
        return self._mapped(states, lambda old: [old[0]] * len(old))

    def on(self, states: int) -> int:
        """States a tick later."""

        def moved(old: list[int]) -> list[int]:
            new = [NONE, *old[:-1]]
            new[self.most] = self.d.either(new[self.most], old[self.most])
            return new

        return self._mapped(states, moved)

    def back(self, states: int) -> int:
        """States a tick before."""

        def moved(old: list[int]) -> list[int]:
            new = [*old[1:], NONE]
            new[self.most] = old[self.most]
            return new

        return self._mapped(states, moved)

    def _made(self, parts: list[int], level: int | None = None) -> int:
        level = self.first if level is None else level
        if len(parts) == 1:
            return parts[0]
        half = len(parts) // 2
        return self.d.node(level, self._made(parts[:half], level + 1), self._made(parts[half:], level + 1))

    def _parts(self, f: int, level: int) -> list[int]:
        if level == self.first + self.width:
            return [f]
        low, high = (self.d.low[f], self.d.high[f]) if self.d.level[f] == level else (f, f)
        return [*self._parts(low, level + 1), *self._parts(high, level + 1)]

    def _mapped(self, states: int, change: Callable[[list[int]], list[int]]) -> int:
        known: dict[int, int] = {}
        d = self.d

        def walk(f: int) -> int:
            found = known.get(f)
            if found is None:
                if d.level[f] >= self.first:
                    found = self._made(change(self._parts(f, self.first)))
                else:
                    found = d.node(d.level[f], walk(d.low[f]), walk(d.high[f]))
                known[f] = found
            return found

        return walk(states)


def _travels(positions: tuple[int, ...]) -> bool:
    """A button with two contacts, which is half-way for a moment."""
    return set(positions) == {REST, HALF, PRESSED}


class TimedModel(Model):
    """A model whose devices have clocks.

    Parameters
    ----------
    engine, limit_s : as for ``Model``
    coil : which coils the circuit has
    clocked : devices whose times count; all others take any time

    Notes
    -----
    Fewer clocks and longer ticks leave more orders, never fewer: what holds here holds.
    """

    def __init__(self, engine: Engine, limit_s: float | None, coil: CoilKind, clocked: frozenset[str]) -> None:
        self.coil, self.clocked = coil, clocked
        self.clocks: dict[int, Clock] = {}
        self.tick_ms = LEAST_TICK_MS
        super().__init__(engine, limit_s)
        self._count()

    def bounds_ms(self, i: int, at: int, following: int) -> Bounds:
        """Bounds of a step of a device [ms]; 0 and none where nothing holds it."""
        device = self.e.circuit.devices[self.e.names[i]]
        return self.e.behaviours[i].bounds_ms(device, at, following, self.coil)

    def ticks(self, i: int, at: int, following: int) -> tuple[int, int | None]:
        """Bounds of a step in whole ticks, no narrower than they are."""
        if self.e.names[i] not in self.clocked:
            return 0, None
        least, most = self.bounds_ms(i, at, following)
        if most is not None and most > LONG_MS:
            most = None
        least = min(least, LONG_MS)
        return floor(least / self.tick_ms + 1e-9), None if most is None else ceil(most / self.tick_ms - 1e-9)

    def step(self, i: int, following: int) -> str:
        """What a device does in a step, in words."""
        if self.e.kinds[i] in ("contactor", "relay"):
            return WORDS[STEPS[following]]
        return "runs out" if following else "returns"

    def _lay_out(self) -> None:
        e = self.e
        known = [x for n in self.clocked for x in self._bounds_of(e.index[n])]
        longest = max((most if most is not None and most <= LONG_MS else min(least, LONG_MS) for least, most in known), default=0.0)  # fmt: skip
        self.tick_ms = max(LEAST_TICK_MS, longest / MOST_TICKS)
        super()._lay_out()

    def _bounds_of(self, i: int) -> list[Bounds]:
        return [self.bounds_ms(i, a, b) for a, b in self._steps(i, self._positions(i))] if self.e.behaviours[i].coil else []

    def _add(self, index: int, positions: tuple[int, ...]) -> None:
        super()._add(index, positions)
        if index == SUPPLY or index not in self.variables:
            return
        bounds = [self.ticks(index, a, b) for a, b in self._steps(index, positions)]
        most = max((hi if hi is not None else lo for lo, hi in bounds), default=0)
        if most:
            width = most.bit_length()
            self.clocks[index] = Clock(self.d, self.levels, width, most)
            self.levels += width

    def _steps(self, index: int, positions: tuple[int, ...]) -> list[tuple[int, int]]:
        """Steps of a device that take time."""
        if not self.e.behaviours[index].coil:
            return [(HALF, b) for b in positions if b != HALF] if _travels(positions) else []
        follows = [(a, self._follows(index, a, live=live, locked=False)) for a in positions for live in (True, False)]
        return [(a, b) for a, b in follows if b is not None]

    def _count(self) -> None:
        """What clocks ask: when each runs, what must not wait longer, and which moves take from others what was due."""
        d = self.d
        self.runs: dict[int, int] = {}
        self.urgent = NONE
        self.least: dict[int, int] = {}
        due: dict[int, dict[int, int]] = {}
        for m in self.own_moves:
            i = m.variable.index
            when = d.both(self.at(i, m.before), m.guard)
            due.setdefault(i, {})[m.after] = d.either(due.get(i, {}).get(m.after, NONE), when)
            lo, hi = self.ticks(i, m.before, m.after)
            clock = self.clocks.get(i)
            if clock is not None:
                self.runs[i] = d.either(self.runs.get(i, NONE), when)
                if lo:
                    self.least[id(m)] = clock.at_least(lo)
            if hi is not None:
                self.urgent = d.either(self.urgent, d.both(when, clock.at_least(hi) if clock and hi else ALL))
        for m in self.inputs:
            i = m.variable.index
            if i in self.clocks and m.before == HALF and _travels(m.variable.positions):
                lo, _ = self.ticks(i, HALF, m.after)
                self.runs[i] = self.at(i, HALF)
                self.least[id(m)] = self.clocks[i].at_least(lo)
        self.lost: dict[int, list[tuple[Clock, int]]] = {}
        for m in (*self.own_moves, *self.inputs):
            before, after = m.variable.bits(m.before), m.variable.bits(m.after)
            found = []
            for j, targets in due.items():
                if j == m.variable.index or j not in self.clocks:
                    continue
                gone = d.any_of(d.without(d.fixed(w, before), d.fixed(w, after)) for w in targets.values())
                if gone:
                    found.append((self.clocks[j], gone))
            self.lost[id(m)] = found


class TimedSearch(Search):
    """Where a circuit can come with the times of its devices."""

    m: TimedModel

    def __init__(self, model: TimedModel, inputs: Sequence[Move] | None = None) -> None:
        super().__init__(model, inputs, [*model.own_moves, TICK])
        bits = {level: 0 for c in model.clocks.values() for level in range(c.first, c.first + c.width)}
        self.start = self.d.both(model.initial, self.d.cube(bits))

    def post(self, states: int, move: Move) -> int:
        """States after a move, or a tick later."""
        d, m, v = self.d, self.m, move.variable
        if move is TICK:
            states = d.without(states, m.urgent)
            for i, runs in m.runs.items():
                moving = d.both(states, runs)
                if moving:
                    states = d.either(d.without(states, runs), m.clocks[i].on(moving))
            return states
        left = d.all_of((states, move.guard, m.least.get(id(move), ALL)))
        left = d.fixed(left, v.bits(move.before))
        own = m.clocks.get(v.index)
        if own is not None:
            left = own.reset(left)
        for clock, gone in m.lost[id(move)]:
            hit = d.both(left, gone)
            if hit:
                left = d.either(d.without(left, gone), clock.reset(hit))
        return d.both(left, d.cube(v.bits(move.after)))

    def pre(self, states: int, move: Move) -> int:
        """States before a move, or a tick before."""
        d, m, v = self.d, self.m, move.variable
        if move is TICK:
            for i, runs in m.runs.items():
                moving = d.both(states, runs)
                if moving:
                    states = d.either(d.without(states, runs), m.clocks[i].back(moving))
            return d.without(states, m.urgent)
        left = d.fixed(states, v.bits(move.after))
        own = m.clocks.get(v.index)
        if own is not None:
            left = own.before_reset(left)
        for clock, gone in m.lost[id(move)]:
            hit = d.both(left, gone)
            if hit:
                left = d.either(d.without(left, gone), clock.before_reset(hit))
        left = d.both(left, d.cube(v.bits(move.before)))
        return d.all_of((left, move.guard, m.least.get(id(move), ALL)))

    def closure(self, states: int, moves: Iterable[Move]) -> int:
        """Everything that follows; where something moves by itself the time goes on too."""
        moves = list(moves)
        if TICK not in moves and any(x.own for x in moves):
            moves.append(TICK)
        return super().closure(states, moves)

    def path(self, state: int, wanted: int) -> list[Move]:
        """Shortest moves of its own from a state to some others."""
        layers = [state]
        while not (found := self.d.both(layers[-1], wanted)):
            layers.append(self.d.any_of(self.post(layers[-1], move) for move in self.own))
        moves: list[Move] = []
        for layer in layers[-2::-1]:
            for move in self.own:
                if before := self.d.both(self.pre(found, move), layer):
                    found = self._one(before)
                    moves.append(move)
                    break
        return moves[::-1]


@dataclass(frozen=True, slots=True)
class Race:
    """How the times of a story lie to each other.

    Attributes
    ----------
    possible : the times leave it
    margin_ms : by how much it is possible, or missed [ms]
    early, late : steps that must come in time at the earliest, against those that come at the latest: device, step and time
    at_ms : times of its moves where it is possible [ms]
    """

    possible: bool
    margin_ms: float
    early: tuple[tuple[str, str, float], ...]
    late: tuple[tuple[str, str, float], ...]
    at_ms: tuple[float, ...] = ()


def race_of(m: TimedModel, moves: Sequence[Move], state: int = ALL) -> Race:
    """Whether the times of the devices leave a story, by the differences between its moments.

    Parameters
    ----------
    moves : without ticks, from rest
    state : that they lead to, for what nobody can tell of an armature that is held

    References
    ----------
    Differences with bounds as a graph: they can all be kept where no way round it is negative (R. Bellman; R. W. Floyd).
    """
    n = len(moves)
    bits = dict.fromkeys(range(m.levels), 0) | m.d.some(state)
    for v in m.variables.values():
        bits |= v.bits(v.positions[0])
    # Between moments 0 (rest) and 1 to n: least distances, each with the step that it is of.
    limit: dict[tuple[int, int], tuple[float, tuple[str, str, float] | None]] = {(k + 1, k): (0.0, None) for k in range(n)}

    def no_more(a: int, b: int, ms: float, of: tuple[str, str, float]) -> None:
        """Moment ``b`` comes at most so long after ``a``."""
        if ms < limit.get((a, b), (inf, None))[0]:
            limit[a, b] = ms, of

    since: dict[tuple[int, int], int] = {}
    half: dict[int, int] = {}
    due = _due(m, bits)
    since = dict.fromkeys(due, 0)
    for k, move in enumerate(moves, 1):
        i = move.variable.index
        if move.own:
            begun = since[i, move.after]
            least, _ = m.bounds_ms(i, move.before, move.after)
            no_more(k, begun, -least, (m.e.names[i], m.step(i, move.after), least))
        elif i in half and move.before == HALF:
            least, _ = m.bounds_ms(i, HALF, move.after)
            no_more(k, half[i], -least, (m.e.names[i], "travels", least))
        bits |= move.variable.bits(move.after)
        if move.after == HALF and _travels(move.variable.positions):
            half[i] = k
        now = _due(m, bits)
        for (j, after), begun in list(since.items()):
            before = due[j, after]
            _, most = m.bounds_ms(j, before, after)
            if most is not None:
                no_more(begun, k, most, (m.e.names[j], m.step(j, after), most))
            if (j, after) not in now or (j == i and move.own):
                del since[j, after]
        for key in now:
            since.setdefault(key, k)
        due = now
    return _shortest_way_round(n + 1, limit)


def _due(m: TimedModel, bits: dict[int, int]) -> dict[tuple[int, int], int]:
    """What is on its way in a state: device and where to, with where from."""
    return {(x.variable.index, x.after): x.before for x in m.own_moves if m.d.holds(m.d.both(x.guard, m.at(x.variable.index, x.before)), bits)}  # fmt: skip


def _shortest_way_round(n: int, limit: dict[tuple[int, int], tuple[float, tuple[str, str, float] | None]]) -> Race:
    """The tightest way round the graph: negative where the differences cannot all be kept."""
    far = [[0.0 if a == b else limit.get((a, b), (inf,))[0] for b in range(n)] for a in range(n)]
    via = [list(range(n)) for _ in range(n)]
    tightest: tuple[float, int, int] = (inf, 0, 0)
    for k in range(n):
        for a in range(n):
            for b in range(n):
                through = far[a][k] + far[k][b]
                if through < far[a][b] - 1e-9:
                    if a == b:
                        return _told(limit, _way(via, a, k) + _way(via, k, a), through)
                    far[a][b], via[a][b] = through, via[a][k]
    for a in range(n):
        for b in range(a + 1, n):
            around = far[a][b] + far[b][a]
            if 1e-9 < around < tightest[0]:
                tightest = (around, a, b)
    at = tuple(-far[b][0] for b in range(n))
    if tightest[0] == inf:
        return Race(True, inf, (), (), at)
    margin, a, b = tightest
    return _told(limit, _way(via, a, b) + _way(via, b, a), margin, at)


def _way(via: list[list[int]], a: int, b: int) -> list[tuple[int, int]]:
    found = []
    while a != b and len(found) <= len(via):
        found.append((a, via[a][b]))
        a = via[a][b]
    return found


def _told(
    limit: dict[tuple[int, int], tuple[float, tuple[str, str, float] | None]],
    way: list[tuple[int, int]],
    margin: float,
    at: tuple[float, ...] = (),
) -> Race:
    steps = [(step, limit[edge][0]) for edge in way if (step := limit[edge][1])]
    early = tuple(step for step, ms in steps if ms < 0)
    late = tuple(step for step, ms in steps if ms >= 0)
    return Race(margin >= 0, abs(margin), early, late, at)


class TimedDecide(Decide):
    """The rules of a circuit with the times of some devices; the others take any time.

    Parameters
    ----------
    engine, limit_s, net : as for ``Decide``
    coil, clocked : as for ``TimedModel``
    """

    m: TimedModel

    def __init__(
        self,
        engine: Engine,
        limit_s: float | None,
        coil: CoilKind,
        clocked: frozenset[str],
        net: PowerNet | None = None,
    ) -> None:
        self.coil, self.clocked = coil, clocked
        super().__init__(engine, limit_s, net)

    def _model(self, engine: Engine, limit_s: float | None) -> TimedModel:
        return TimedModel(engine, limit_s, self.coil, self.clocked)

    def searching(self, inputs: Sequence[Move] | None = None) -> TimedSearch:
        """A search from rest, with the time that goes on."""
        return TimedSearch(self.m, inputs)

    def whole(self, found: Nearest) -> list[Move]:
        """All moves of a story without ticks, also those that follow its last operation by themselves."""
        assert isinstance(found.search, TimedSearch)
        moves, state = [*found.moves], found.state
        for move in found.case.moves:
            moves.append(move)
            after = found.search.post(state, move)
            moves += found.search.path(after, self.on)
        return [m for m in moves if m is not TICK]


#: Rules about states that last, or that are about what is fitted: times change nothing, or are not looked at.
WHATEVER_THE_TIMES = ("mechanical_interlock_fitted", "comes_to_rest", "every_coil_reachable", "earth_fault_tolerant")


def with_times(
    engine: Engine, proof: Proof, coil: CoilKind, limit_s: float | None, net: PowerNet | None = None
) -> Proof:
    """A rule that is broken in some order, with the times of the devices.

    Devices get clocks one after the other, those first that the nearest story would have to hurry or to hold back.

    Parameters
    ----------
    engine : of the circuit, damaged or not
    proof : of the rule whatever the times
    coil : which coils the circuit has
    limit_s : time after which it is not decided [s]

    Returns
    -------
    The proof as it was where times change nothing; else held by a margin, or broken with its moments.

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.document.model import parse
    >>> from volmek.core.circuit.proof.rules import prove
    >>> c = circuit_of(parse({"tag": "A", "starter": {"type": "reversing"}, "control": {"mechanical_interlock": False}}))
    >>> p = next(p for p in prove(c) if p.rule == "no_power_short")
    >>> with_times(Engine(c), p, "ac", 30.0).holds
    True

    References
    ----------
    R. Alur, D. L. Dill, A theory of timed automata (1994); T. A. Henzinger, Z. Manna, A. Pnueli, What good are digital clocks? (1992): with bounds
    that include their ends, whole ticks decide. E. Clarke and others, Counterexample-guided abstraction refinement (2000).
    """
    if proof.holds is not False or proof.rule in WHATEVER_THE_TIMES:
        return proof
    clocked: frozenset[str] = frozenset()
    missed: list[Race] = []
    while True:
        try:
            x = TimedDecide(engine, limit_s, coil, clocked, net)
            found = _decide(x, proof)
        except CutShort:
            return replace(proof, holds=None, shortest=None, why=f"Not decided with these times: {limit_s:g} s were not enough.")
        if found.holds or x.nearest is None:
            nearest = min(missed, key=lambda r: r.margin_ms)
            how = f"With the times of {COIL_WORDS[coil]}. {proof.why} That takes another order: {_words(nearest)}"
            return replace(proof, holds=True, shortest=None, why="", how=how, margin_ms=nearest.margin_ms)
        moves = x.whole(x.nearest)
        race = race_of(x.m, moves, x.nearest.state)
        if race.possible:
            why = f"{found.why} The times of {COIL_WORDS[coil]} leave it{_spare(race)}."
            return replace(proof, why=why, shortest=_script(x, moves, race), margin_ms=None if race.margin_ms == inf else race.margin_ms)
        missed.append(race)
        new = {device for device, _, _ in (*race.early, *race.late)} - clocked
        if not new:
            return replace(proof, holds=None, shortest=None, why="Not decided with these times: what is set on a time relay decides it, and that is not counted so finely.")
        clocked |= new


def _decide(x: TimedDecide, proof: Proof) -> Proof:
    if proof.rule.startswith("own_rule_"):
        holds, story, why, how = OwnRules(x, None)(read_rule(proof.words, x.c))
        return replace(proof, holds=holds, shortest=story, why=why, how=how)
    return x(proof.rule)


def _words(r: Race) -> str:
    late = " and ".join(f"{device} {what} within {ms:g} ms" for device, what, ms in r.late)
    early = " and ".join(f"{device} {what} after {ms:g} ms" for device, what, ms in r.early)
    return f"{late} at the latest, {early} at the earliest; {r.margin_ms:g} ms lie between."


def _spare(r: Race) -> str:
    return "" if r.margin_ms == inf else f", by {r.margin_ms:g} ms"


def _script(x: TimedDecide, moves: Sequence[Move], r: Race) -> list[str]:
    """The story with the pauses between its operations."""
    found: list[str] = []
    before = 0.0
    for k, said in enumerate(x.search.told(moves), 1):
        if said and not moves[k - 1].own:
            if found and r.at_ms[k] > before:
                found.append(f"pause {(r.at_ms[k] - before) / 1000:.3g}")
            found.append(said)
            before = r.at_ms[k]
    return found
