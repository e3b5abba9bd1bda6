"""Rules that a user writes: read, with the place of a mistake, and decided like the others.

``K7 never without K1``, ``never K1 and K2 even for a moment``, ``after S1 nothing until S2`` and ``P5 lit within 1 s of losing a line``.
A condition is a device with a state, joined by ``and`` and ``or``; without a state it is the usual one: a contactor in, a lamp lit, a button pressed.
Rules hold where nothing but timers moves, or even for a moment; one with seconds is tried with the times of the design.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

from volmek.core.circuit.kernel.operations import plain_number
from volmek.core.circuit.kernel.operator import Operator
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.model.behaviour import DONE, HELD, IN, OUT, PRESSED, REST, TIMING, DeviceKind
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.proof.model import Model
from volmek.core.circuit.proof.poles import Poles
from volmek.core.circuit.proof.search import Search
from volmek.core.document.errors import ProblemError

#: Longest time of a rule, and longest that a start is waited for [s].
LONGEST_S, STARTED_S = 600.0, 900.0
#: States by the kind of device, the usual one first: word, and the positions that it means.
STATES: Mapping[DeviceKind, Mapping[str, tuple[int, ...]]] = {
    "contactor": {"in": (IN,), "out": (OUT, HELD)},
    "relay": {"in": (IN,), "out": (OUT, HELD)},
    "timer": {"done": (DONE,), "running": (TIMING,), "idle": (0,)},
    "star_delta_timer": {"star": (1,), "pause": (2,), "delta": (3,), "idle": (0,)},
    "soft_starter": {"full": (2,), "ramping": (1, 3), "off": (0,)},
    "button": {"pressed": (PRESSED,), "released": (REST,)},
    "emergency_stop": {"pressed": (PRESSED,), "released": (REST,)},
    "overload": {"tripped": (1,), "ready": (0,)},
    "breaker": {"closed": (1,), "open": (0,), "tripped": (2,)},
    "monitor": {"healthy": (1,), "dropped": (0,)},
    "field": {"acting": (1,), "resting": (0,)},
}
#: Devices that are on or not, and the motor.
SHOWN: Mapping[str, tuple[str, str]] = {
    "lamp": ("lit", "dark"), "buzzer": ("on", "off"), "heater": ("on", "off"), "motor": ("on", "off"),
}  # fmt: skip
#: What happens, and the operation that it is.
HAPPENS: Mapping[str, str] = {
    "pressing": "press", "releasing": "release", "tripping": "trip", "resetting": "reset", "losing": "lose", "restoring": "restore",
    "opening": "open", "closing": "close",
}  # fmt: skip
PATTERNS = (
    "K2 never without K1", "never K2 and K3 even for a moment", "after S1 nothing until S2", "P1 lit within 1 s of pressing S2",
)  # fmt: skip
_WORD = re.compile(r"\S+")


class UnreadableError(ValueError):
    """A rule that cannot be read; its words say where."""


@dataclass(frozen=True, slots=True)
class Atom:
    """A device in a state.

    Attributes
    ----------
    device : by designation
    positions : of the state; empty where the device is on or off
    on : whether it is on, of what is on or off
    """

    device: str
    positions: tuple[int, ...]
    on: bool = True


#: Any of some, each all of some.
Condition = tuple[tuple[Atom, ...], ...]


@dataclass(frozen=True, slots=True)
class OwnRule:
    """A rule as it was read.

    Attributes
    ----------
    text : as it was written
    never : must not be
    without : must be while ``never`` is; then only the two of them apart break the rule
    moment : not even for a moment
    after, until : after the first nothing may start until the second
    within_s, of : the condition ``never`` must come within so long of each of these operations
    """

    text: str
    never: Condition = ()
    without: Condition = ()
    moment: bool = False
    after: tuple[Atom, ...] = ()
    until: tuple[Atom, ...] = ()
    within_s: float | None = None
    of: tuple[str, ...] = ()


class _Words:
    """Words of a rule one by one, each with its place."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.words = [(m.start() + 1, m[0].rstrip(",")) for m in _WORD.finditer(text)]
        self.n = 0

    @property
    def next(self) -> str:
        return self.words[self.n][1] if self.n < len(self.words) else ""

    def wrong(self, wanted: str) -> UnreadableError:
        if self.n < len(self.words):
            at, word = self.words[self.n]
            return UnreadableError(f"at letter {at}: {wanted}, not {word}")
        return UnreadableError(f"at the end: {wanted} is missing")

    def take(self, *wanted: str) -> str:
        found = self.next
        if wanted and found not in wanted:
            raise self.wrong(" or ".join(wanted))
        if not found:
            raise self.wrong("a word")
        self.n += 1
        return found


def read_rule(text: str, c: Circuit) -> OwnRule:
    """A rule for a circuit.

    Parameters
    ----------
    text : as the module describes
    c : whose devices it names

    Raises
    ------
    UnreadableError : with the place of the mistake.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> read_rule("K1 never without M1", example().circuit).never[0][0].device
    'K1'
    >>> read_rule("K9 never without K1", example().circuit)
    Traceback (most recent call last):
    volmek.core.circuit.proof.own.UnreadableError: at letter 1: a device of this circuit, not K9
    """
    w = _Words(text)
    if w.next == "never":
        w.take()
        never = _condition(w, c)
        moment = _moment(w)
        return _whole(w, OwnRule(text, never=never, moment=moment))
    if w.next == "after":
        w.take()
        after = _event(w, c)
        w.take("nothing")
        w.take("until")
        return _whole(w, OwnRule(text, after=after, until=_event(w, c)))
    condition = _condition(w, c)
    if w.take("never", "within") == "never":
        w.take("without")
        without = _condition(w, c)
        return _whole(w, OwnRule(text, never=condition, without=without, moment=_moment(w)))
    seconds = plain_number(w.next)
    if seconds is None or not 0 < seconds <= LONGEST_S:
        raise w.wrong(f"seconds, above 0 and up to {LONGEST_S:g}")
    w.take()
    w.take("s")
    w.take("of")
    return _whole(w, OwnRule(text, never=condition, within_s=seconds, of=_operations(w, c)))


def _whole(w: _Words, rule: OwnRule) -> OwnRule:
    if w.next:
        raise w.wrong("the end of the rule")
    return rule


def _moment(w: _Words) -> bool:
    if w.next != "even":
        return False
    for word in ("even", "for", "a", "moment"):
        w.take(word)
    return True


def _condition(w: _Words, c: Circuit) -> Condition:
    found = [[_atom(w, c)]]
    while w.next in ("and", "or"):
        if w.take() == "or":
            found.append([])
        found[-1].append(_atom(w, c))
    return tuple(tuple(x) for x in found)


def _atom(w: _Words, c: Circuit) -> Atom:
    name = c.motor if w.next == "motor" else w.next
    if name not in c.devices:
        raise w.wrong("a device of this circuit")
    device = c.devices[name]
    if device.kind == "selector":
        w.take()
        return Atom(name, (device.positions.index(w.take(*device.positions)),))
    if device.kind in SHOWN:
        w.take()
        on, off = SHOWN[device.kind]
        if w.next in (on, off):
            return Atom(name, (), w.take() == on)
        return Atom(name, ())
    states = STATES.get(device.kind)
    if states is None:
        raise w.wrong("a device with a state")
    w.take()
    return Atom(name, states[w.take()] if w.next in states else next(iter(states.values())))


def _event(w: _Words, c: Circuit) -> tuple[Atom, ...]:
    """What is done to an input: one, or any stop or start."""
    many = {"stop": c.stops, "start": c.starts}.get(w.next)
    if many is not None:
        names = [x for x in many if c.devices[x].kind == "button"]
        if not names:
            raise w.wrong("a button of this circuit")
        w.take()
        return tuple(Atom(x, (PRESSED,)) for x in names)
    kind = c.devices[w.next].kind if w.next in c.devices else None
    if kind not in ("button", "emergency_stop", "selector", "overload", "breaker", "monitor", "field"):
        raise w.wrong("stop, start, or an input of this circuit")
    return (_atom(w, c),)


def _operations(w: _Words, c: Circuit) -> tuple[str, ...]:
    verb = HAPPENS[w.take(*HAPPENS)]
    if verb in ("lose", "restore"):
        lines = c.supply.taken_lines
        if w.next == "a":
            w.take()
            w.take("line")
            return tuple(f"{verb} {x}" for x in lines)
        return (f"{verb} {w.take(*c.conductors)}",)
    if w.next not in c.devices:
        raise w.wrong("a device of this circuit")
    return (f"{verb} {w.take()}",)


class Deciding(Protocol):
    """The decision of the shipped rules: what they have built of the circuit."""

    m: Model
    c: Circuit
    search: Search
    poles: Poles

    @property
    def on(self) -> int:
        """A coil of the power circuit is energised, or the motor is on the lines."""
        ...


class OwnRules:
    """Rules of a user on one circuit.

    Parameters
    ----------
    decide : the decision of the shipped rules, whose model they are decided on
    sim : with the times of the design; None where nobody has them
    """

    def __init__(self, decide: Deciding, sim: Simulator | None) -> None:
        self.x, self.m, self.d, self.sim = decide, decide.m, decide.m.d, sim

    def __call__(self, rule: OwnRule) -> tuple[bool | None, list[str] | None, str, str]:
        """Whether it holds, story, what happens then, and how it was decided."""
        if rule.within_s is not None:
            return self._within(rule)
        if rule.after:
            return self._after(rule)
        d = self.d
        bad = self._where(rule.never)
        if rule.without:
            bad = d.without(bad, self._where(rule.without))
        bad = d.both(bad, self.m.valid if rule.moment else self.settled)
        search = self.x.search
        if not d.both(bad, search.reached):
            over = (
                "In every state that it can come into." if rule.moment else "In every state in which only timers run."
            )
            return True, None, "", over
        moves, _ = search.story(bad)
        return False, search.words(moves), "That is what the rule forbids.", ""

    @cached_property
    def settled(self) -> int:
        """States in which nothing is on its way but timers that run."""
        d, m = self.d, self.m
        runs = ("timer", "star_delta_timer")
        moving = [
            d.both(m.at(x.variable.index, x.before), x.guard)
            for x in m.own_moves
            if m.e.kinds[x.variable.index] not in runs or x.variable.positions[0] in (x.before, x.after)
        ]
        return d.without(m.valid, d.any_of(moving))

    def _where(self, condition: Condition) -> int:
        return self.d.any_of(self.d.all_of(self._at(a) for a in atoms) for atoms in condition)

    def _at(self, a: Atom) -> int:
        if a.positions:
            return self.m.position(a.device, *a.positions)
        on = self.x.poles.fed if a.device == self.x.c.motor else self.m.lit.get(a.device, 0)
        return on if a.on else self.d.without(self.m.valid, on)

    def _after(self, rule: OwnRule) -> tuple[bool | None, list[str] | None, str, str]:
        d, m = self.d, self.m
        ends = {m.e.index[a.device] for a in rule.until}
        free = d.all_of(d.without(m.valid, self._at(a)) for a in rule.until)
        first = self.x.search
        begins = d.all_of((first.reached, self.settled, free, d.any_of(self._at(a) for a in rule.after)))
        then = Search(m, inputs=[x for x in m.inputs if x.variable.index not in ends])
        then.start = begins
        bad = d.both(self.settled, self.x.on)
        if not begins:
            return None, None, "Not decided: it never comes to what the rule begins with.", ""
        if not d.both(then.reached, bad):
            return True, None, "", "In every state that follows by anything else."
        moves, state = then.story(bad)
        start = state
        for move in reversed(moves):
            start = then.pre(start, move)
        before, _ = first.story(d.both(start, begins))
        return False, first.words([*before, *moves]), "It starts before.", ""

    def _within(self, rule: OwnRule) -> tuple[bool | None, list[str] | None, str, str]:
        """Tried with the times of the design, from rest and while it runs."""
        assert rule.within_s is not None
        if self.sim is None:
            return None, None, "Not decided: a rule with seconds needs the times of the design.", ""
        o = Operator(self.x.c, self.sim.dynamics, self.sim.engine)
        o.sim = self.sim
        rest = o.wait(self.sim.begin(), 5.0)
        started = o.started(rest)
        while (due := [at for _, _, at in started.due if at < STARTED_S]) and started.time_s < STARTED_S:
            started = o.wait(started, max(min(due) - started.time_s, 1e-6))
        start = (
            [f"press {o.start}", f"release {o.start}", f"wait {started.time_s - rest.time_s:.3g}"] if o.start else []
        )
        for operation in rule.of:
            for state, story in ((rest, []), (started, start)):
                if self._is(rule.never, state):
                    continue  # it is so already
                if not self._comes(rule, operation, state):
                    return False, [*story, operation, f"wait {rule.within_s:g}"], f"Not within {rule.within_s:g} s.", ""
        return True, None, "", "With these times, from rest and while it runs: tried, not proved."

    def _comes(self, rule: OwnRule, operation: str, s: State) -> bool:
        assert self.sim is not None and rule.within_s is not None
        end = s.time_s + rule.within_s
        try:
            s = self.sim.operate(s, operation)
        except ProblemError:
            return False
        while True:
            if self._is(rule.never, s):
                return True
            if s.time_s >= end - 1e-9:
                return False
            nearest = min((at for _, _, at in s.due), default=end)
            s = self.sim.advance(s, max(min(nearest, end, s.time_s + 0.05) - s.time_s, 1e-6))

    def _is(self, condition: Condition, s: State) -> bool:
        assert self.sim is not None
        return any(all(self._stands(a, s) for a in atoms) for atoms in condition)

    def _stands(self, a: Atom, s: State) -> bool:
        assert self.sim is not None
        if a.positions:
            return s.positions[self.sim.engine.index[a.device]] in a.positions
        if a.device == self.x.c.motor:
            return (self.sim.electrical(s).connection != "off") == a.on
        return self.sim.lamps(s).get(a.device, False) == a.on
