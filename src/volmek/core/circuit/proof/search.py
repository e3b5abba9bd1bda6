"""Reachable states of a model, and the shortest operations to a set of them."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from volmek.core.circuit.model.behaviour import HALF, PRESSED, REST
from volmek.core.circuit.proof.diagrams import ALL, NONE
from volmek.core.circuit.proof.model import SUPPLY, Model, Move


@dataclass(slots=True)
class Ring:
    """States within so many operations, closed under what moves by itself.

    Attributes
    ----------
    entered : where its last operation led
    states : from there on, with those of the rings before
    """

    entered: int
    states: int


class Search:
    """Where a circuit can come from rest by some operations.

    Parameters
    ----------
    model : of the circuit
    inputs : operations that are done; all where not given
    own : what moves by itself; everything, in any order, where not given
    """

    def __init__(self, model: Model, inputs: Sequence[Move] | None = None, own: Sequence[Move] | None = None) -> None:
        self.m, self.d = model, model.d
        self.start = model.initial
        self.inputs = model.inputs if inputs is None else list(inputs)
        self.own = model.own_moves if own is None else list(own)
        self.rings: list[Ring] = []
        self._reached: int | None = None

    def post(self, states: int, move: Move) -> int:
        """States after a move."""
        v = move.variable
        left = self.d.fixed(self.d.both(states, move.guard), v.bits(move.before))
        return self.d.both(left, self.d.cube(v.bits(move.after)))

    def pre(self, states: int, move: Move) -> int:
        """States before a move."""
        v = move.variable
        left = self.d.fixed(states, v.bits(move.after))
        return self.d.both(self.d.both(left, move.guard), self.d.cube(v.bits(move.before)))

    def closure(self, states: int, moves: Iterable[Move]) -> int:
        """Everything that follows, each move applied to the result of the last until nothing changes."""
        moves = list(moves)
        while True:
            before = states
            for move in moves:
                states = self.d.either(states, self.post(states, move))
            if states == before:
                return states

    @property
    def reached(self) -> int:
        """All states that it can come into."""
        if self._reached is None:
            self._reached = self.closure(self.start, [*self.own, *self.inputs])
        return self._reached

    def ring(self, k: int) -> Ring:
        """States within ``k`` operations."""
        while len(self.rings) <= k:
            if not self.rings:
                entered, before = self.start, NONE
            else:
                before = self.rings[-1].states
                entered = self.d.any_of(self.post(before, move) for move in self.inputs)
                entered = self.d.without(entered, before)
            self.rings.append(Ring(entered, self.d.either(before, self.closure(entered, self.own))))
        return self.rings[k]

    def story(self, bad: int) -> tuple[list[Move], int]:
        """Moves to the nearest state of a set that can be reached, and that state: fewest operations, then fewest moves."""
        k = 0
        while not (wanted := self.d.both(self.ring(k).states, bad)):
            k += 1
        backwards: list[Move] = []
        last: int | None = None
        while True:
            ring = self.rings[k]
            layers = [wanted]
            while not (begin := self.d.both(layers[-1], ring.entered)):
                before = self.d.any_of(self.pre(layers[-1], move) for move in self.own)
                layers.append(self.d.both(before, ring.states))
            state = self._one(begin)
            forwards: list[Move] = []
            entry = state
            for layer in layers[-2::-1]:
                for move in self.own:
                    if after := self.d.both(self.post(state, move), layer):
                        state = self._one(after)
                        forwards.append(move)
                        break
            backwards += forwards[::-1]
            last = state if last is None else last
            if k == 0:
                return backwards[::-1], last
            move, wanted = next(
                (move, before)
                for move in self.inputs
                if (before := self.d.both(self.pre(entry, move), self.rings[k - 1].states))
            )
            backwards.append(move)
            k -= 1
            while k and (nearer := self.d.both(wanted, self.rings[k - 1].states)):
                wanted, k = nearer, k - 1

    def backwards(self, states: int, within: int = ALL) -> int:
        """States, of some only, from which moves of its own can lead to some others."""
        while True:
            before = states
            for move in self.own:
                states = self.d.either(states, self.d.both(within, self.pre(states, move)))
            if states == before:
                return states

    def after(self, state: int, move: Move, wanted: int) -> int:
        """The first states of a set that follow an operation by themselves."""
        came = self.post(state, move)
        while not (found := self.d.both(came, wanted)):
            came = self.d.either(came, self.d.any_of(self.post(came, m) for m in self.own))
        return self._one(found)

    def for_ever(self) -> int:
        """States that can be reached and from which moves go on for ever, though none stays possible without being taken.

        References
        ----------
        E. A. Emerson, C.-L. Lei, Efficient model checking in fragments of the propositional mu-calculus (1986).
        """
        d, m = self.d, self.m
        movers = {x.variable.index: [y for y in self.own if y.variable is x.variable] for x in self.own}
        left = d.without(self.reached, m.resting)
        while left := self._going_on(left):
            before = left
            for i, moves in movers.items():
                taken = d.any_of(self.pre(left, x) for x in moves)
                left = self.backwards(d.both(left, d.either(d.other(m.possible[i]), taken)), left)
            if left == before:
                break
        return left

    def _going_on(self, states: int) -> int:
        """Those of some states that moves lead to from others of them, and on to others of them, without end."""
        while True:
            before = states
            for step in (self.pre, self.post):
                states = self.d.both(states, self.d.any_of(step(states, x) for x in self.own))
            if states == before:
                return states

    def _one(self, states: int) -> int:
        """One state of a set that is not empty."""
        bits = self.d.some(states)
        return self.d.both(states, self.d.cube({level: bits.get(level, 0) for level in range(self.m.levels)}))

    def words(self, moves: Iterable[Move]) -> list[str]:
        """A story as an operator does it."""
        e = self.m.e
        found: list[str] = []
        came: dict[int, int] = {}  # half-pressed buttons, and where from
        for move in moves:
            i, words = move.variable.index, move.words
            if i == SUPPLY:
                words = f"{'restore' if move.after else 'lose'} {e.circuit.source.lost_with[0]}"
            elif not move.own:
                device, behaviour = e.circuit.devices[e.names[i]], e.behaviours[i]
                if device.kind == "monitor":
                    words = e.circuit.monitor_trial[1 if move.after else 0]
                elif device.kind in ("button", "emergency_stop") and HALF in (move.before, move.after):
                    if move.after == HALF:
                        came[i] = move.before
                        words = behaviour.operation(device, move.before, REST if move.before == PRESSED else PRESSED)
                    else:
                        words = "" if came[i] != move.after else behaviour.operation(device, REST if move.after else PRESSED, move.after)  # fmt: skip
                else:
                    words = behaviour.operation(device, move.before, move.after)
            if words:
                found.append(words)
        return found
