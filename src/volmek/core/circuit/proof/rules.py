"""Proofs: every state that a control circuit can come into, over all inputs and all orders of pull-in and drop-out."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial

from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.power import PowerNet
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.model.behaviour import HELD, OUT
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit
from volmek.core.circuit.proof.diagrams import NONE, CutShort
from volmek.core.circuit.proof.lamps import Known, lies
from volmek.core.circuit.proof.model import SUPPLY, Model, Move
from volmek.core.circuit.proof.own import OwnRules, UnreadableError, read_rule
from volmek.core.circuit.proof.poles import Poles
from volmek.core.circuit.proof.search import Search

RULES = {
    "no_power_short": "No two lines and no transformer winding are ever shorted, opening poles still counted as closed.",
    "forbidden_pairs_exclusive": "Contactors that must not be in together never have both coils energised: the electrical interlock alone.",
    "mechanical_interlock_fitted": "Contactors that would short the supply together have a mechanical interlock too: no race between them decides.",
    "comes_to_rest": "After every operation the circuit comes to rest: nothing rattles, and no timer starts again and again.",
    "stop_drops_all": "Stop takes the motor off the lines and drops out every contactor of the power circuit, start held or not.",
    "emergency_stop_drops_all": "Emergency stop takes the motor off the lines and drops out every contactor of the power circuit.",
    "overload_drops_all": "A tripped overload takes the motor off the lines and drops out every contactor of the power circuit.",
    "phase_monitor_drops_all": "A phase monitor that has dropped out takes the motor off the lines and drops out every contactor of the power circuit.",
    "no_self_start": "Nothing starts by itself when the supply, the monitor, the overload or the emergency stop comes back.",
    "every_coil_reachable": "Every coil can be energised, and every lamp, buzzer and heater can be on.",
    "jog_drops_out": "Releasing jog drops out the contactor, however quickly it is released.",
    "no_backfeed": "While no contactor is in, no terminal of the motor is live.",
    "lamps_truthful": "Every lamp shows the true state.",
    "earth_fault_tolerant": "No single earth fault starts the motor or defeats a stop or a trip.",
}
#: Time after which what is left is not decided, unless somebody asks for another [s].
LIMIT_S = 30.0
#: How a rule was decided.
EVERY_PATTERN = "In every state that can be written down, reached or not."
EVERY_STATE = "In every state that it can come into."


@dataclass(frozen=True, slots=True)
class Proof:
    """One rule.

    Attributes
    ----------
    rule, words : which, and in a fitter's words
    holds : over every state; None where it was not decided
    shortest : operations that break it, None where nothing does
    why : what happens then; where it is declared, why it is meant; where it was not decided, what was looked at
    declared : the circuit is meant to break it
    how : of a rule that holds, over which states
    """

    rule: str
    words: str
    holds: bool | None
    shortest: list[str] | None = None
    why: str = ""
    declared: bool = False
    how: str = ""

    @property
    def passed(self) -> bool:
        """Held, or declared not to be."""
        return self.holds is True or self.declared


@dataclass(frozen=True, slots=True)
class Case:
    """One way to break a rule.

    Attributes
    ----------
    states : in which it is broken
    why : in words, or how they follow from one of these states
    moves, then : what follows the story, as moves and as operations
    """

    states: int
    why: str | Callable[[int], str]
    moves: tuple[Move, ...] = ()
    then: tuple[str, ...] = ()


def prove(
    circuit: Circuit,
    engine: Engine | None = None,
    limit_s: float | None = LIMIT_S,
    own: Sequence[str] = (),
    sim: Simulator | None = None,
) -> list[Proof]:
    """Every rule that applies to a circuit, held or broken with its shortest story.

    Parameters
    ----------
    engine : of the circuit, damaged or not
    limit_s : time after which the rest is not decided [s]; None for none
    own : rules that the user wrote
    sim : of the circuit with the times of its design, for rules with seconds

    References
    ----------
    IEC 60204-1, 9.3 and 9.4. Sets of states are decision diagrams, so that none is left out, however many there are.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> {p.holds for p in prove(example().circuit)}
    {True}
    """
    return list(decided(circuit, engine, limit_s, own, sim))


def decided(
    circuit: Circuit,
    engine: Engine | None = None,
    limit_s: float | None = LIMIT_S,
    own: Sequence[str] = (),
    sim: Simulator | None = None,
) -> Iterator[Proof]:
    """As ``prove``, each rule as soon as it is decided."""
    e = engine or Engine(circuit)
    if not e.loads:
        return
    decide: Decide | None = None
    for rule in applicable(e):
        try:
            decide = decide or Decide(e, limit_s)
            found = decide(rule)
        except CutShort:
            found = Proof(rule, RULES[rule], None, why=f"Not decided: {limit_s:g} s were not enough.")
        if found.holds is False and rule in circuit.declared:
            found = replace(found, why=circuit.declared[rule], declared=True)
        yield found
    for n, text in enumerate(own, 1):
        rule = own_name(n)
        try:
            asked = read_rule(text, circuit)
            decide = decide or Decide(e, limit_s)
            holds, story, why, how = OwnRules(decide, sim)(asked)
            yield Proof(rule, text, holds, story, why, how=how)
        except UnreadableError as error:
            yield Proof(rule, text, None, why=f"Cannot be read, {error}.")
        except CutShort:
            yield Proof(rule, text, None, why=f"Not decided: {limit_s:g} s were not enough.")


def to_decide(circuit: Circuit, engine: Engine | None = None, own: Sequence[str] = ()) -> list[Proof]:
    """The rules that ``decided`` will come to, in its order, none of them decided yet.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> c = example().circuit
    >>> [p.rule for p in to_decide(c)] == [p.rule for p in prove(c)]
    True
    """
    e = engine or Engine(circuit)
    shipped = [Proof(rule, RULES[rule], None) for rule in applicable(e)] if e.loads else []
    return [*shipped, *(Proof(own_name(n), text, None) for n, text in enumerate(own, 1) if e.loads)]


def own_name(n: int) -> str:
    """Name of a rule of the user, from 1."""
    return f"own_rule_{n}"


def applicable(e: Engine) -> list[str]:
    """Rules that a circuit can break at all, in their order."""
    c = e.circuit
    jog = bool(c.named("jog"))
    there = {
        "forbidden_pairs_exclusive": bool(c.forbidden),
        "mechanical_interlock_fitted": bool(c.forbidden),
        "stop_drops_all": any(x in e.index for x in c.stops),
        "emergency_stop_drops_all": bool(c.of_kind("emergency_stop")),
        "overload_drops_all": bool(c.overloads),
        "phase_monitor_drops_all": bool(c.monitor),
        "jog_drops_out": jog,
        "no_backfeed": c.source.from_lines and any(x.side == "power" for x in e.contacts),
        "lamps_truthful": bool(c.meanings),
        "earth_fault_tolerant": c.earthed and RETURN in c.sources and LIVE in c.sources,
    }
    return [rule for rule in RULES if there.get(rule, True)]


def needs_mechanical(circuit: Circuit) -> list[tuple[str, str]]:
    """Pairs of contactors that only a lever keeps apart, where both coils can be live at once."""
    return Decide(Engine(circuit)).both_live


def _do(names: list[str], many: str, one: str) -> str:
    return f"{' and '.join(names)} {one if len(names) == 1 else many}"


class Decide:
    """The rules of one circuit, each decided when it is asked for.

    Parameters
    ----------
    engine : of the circuit, damaged or not
    limit_s : time after which ``CutShort`` is raised [s]; None for none
    net : of its power circuit, where somebody has one
    told : with the story of what is broken
    """

    def __init__(
        self, engine: Engine, limit_s: float | None = None, net: PowerNet | None = None, *, told: bool = True
    ) -> None:
        self.told = told
        self.e, self.c = engine, engine.circuit
        self.m = Model(engine, limit_s)
        self.d = self.m.d
        self.search = Search(self.m)
        self.poles = Poles(self.m, net)
        self.coils = [k for k in self.c.power_contactors if k in self.m.acting]

    def __call__(self, rule: str) -> Proof:
        """One rule, held or broken."""
        decide: Callable[[], Proof] = getattr(self, f"_{rule}")
        return decide()

    def _judge(self, rule: str, cases: Iterable[Case], search: Search | None = None) -> Proof:
        """Held where no case can be reached, else broken by the nearest."""
        cases = [x for x in cases if x.states]
        bad = self.d.any_of(x.states for x in cases)
        if not bad:
            return Proof(rule, RULES[rule], True, how=EVERY_PATTERN)
        search = search or self.search
        if not self.d.both(bad, search.reached):
            return Proof(rule, RULES[rule], True, how=EVERY_STATE)
        if not self.told:
            return Proof(rule, RULES[rule], False)
        moves, state = search.story(bad)
        case = next(x for x in cases if self.d.both(x.states, state))
        why = case.why if isinstance(case.why, str) else case.why(state)
        return Proof(
            rule, RULES[rule], False, [*search.words([*moves, *case.moves]), *case.then], why + self._taken(state)
        )

    def _taken(self, state: int) -> str:
        """What was taken of an armature that a welded pole holds, where the story needs it."""
        made = [self.e.names[i] for i, when in self.m.undefined.items() if not self.d.without(state, when)]
        return f" The make contacts of {' and '.join(made)} are taken as made behind the welded pole." if made else ""

    # What rules speak of

    @cached_property
    def resting(self) -> int:
        """At rest."""
        return self.m.resting

    @cached_property
    def on(self) -> int:
        """A coil of the power circuit is energised, or the motor is on the lines."""
        return self.d.either(self.d.any_of(self.m.acting[k] for k in self.coils), self.poles.fed)

    @cached_property
    def off(self) -> int:
        """The motor is off the lines, and every contactor that can move is out."""
        d, m = self.d, self.m
        out = [m.position(k, OUT, HELD) for k in self.coils if self.e.index[k] in m.variables]
        return d.without(d.all_of([m.valid, *out]), self.poles.fed)

    @cached_property
    def released(self) -> int:
        """No start button is touched."""
        return self.d.all_of(self.m.position(x, self.e.behaviours[self.e.index[x]].rest) for x in self.c.starts)

    def operated(self, name: str) -> int:
        """A stop, a trip or a monitor acts."""
        i = self.e.index[name]
        if self.e.kinds[i] in ("selector", "monitor"):
            return self.m.at(i, 0)
        return self.d.without(self.m.valid, self.m.at(i, self.e.behaviours[i].rest))

    def _held(self, state: int) -> list[str]:
        return [k for k in self.coils if self.d.both(self.m.acting[k], state)]

    def _stay(self, state: int) -> str:
        """What is on in a state in which nothing should be."""
        if held := self._held(state):
            return f"{_do(held, 'stay', 'stays')} in."
        return f"The motor stays on the lines through the poles of {' and '.join(self.poles.feeding(state))}."

    # Rules

    def _no_power_short(self) -> Proof:
        def why(state: int) -> str:
            a, b = self.poles.shorts_in(state)
            together = [k for k in self.c.power_contactors if not self.d.both(state, self.m.position(k, OUT, 1, HELD))]
            return f"{a} and {b} are joined through {' and '.join(together)}."

        return self._judge("no_power_short", [Case(self.poles.shorted, why)])

    def _forbidden_pairs_exclusive(self) -> Proof:
        return self._judge(
            "forbidden_pairs_exclusive",
            [Case(self._both(a, b), f"The coils of {a} and {b} are energised together.") for a, b in self.c.forbidden],
        )  # fmt: skip

    def _both(self, a: str, b: str) -> int:
        return self.d.both(self.m.acting.get(a, NONE), self.m.acting.get(b, NONE))

    @cached_property
    def both_live(self) -> list[tuple[str, str]]:
        """Forbidden pairs whose coils can both be live."""
        return [pair for pair in self.c.forbidden if self.d.both(self._both(*pair), self.search.reached)]

    def _mechanical_interlock_fitted(self) -> Proof:
        rule = "mechanical_interlock_fitted"
        needed = list(dict.fromkeys([*self.c.levers, *self.both_live]))
        for a, b in needed:
            if (a, b) not in self.c.mechanical:
                return Proof(rule, RULES[rule], False, [], f"{a} and {b} have no mechanical interlock.")
        return Proof(rule, RULES[rule], True, how=EVERY_STATE if needed else "No pair can have both coils energised.")

    def _comes_to_rest(self) -> Proof:
        own, inputs = self.m.patient
        search = Search(self.m, inputs=inputs, own=own)
        rattling = search.for_ever()

        def why(state: int) -> str:
            around = [self.e.names[m.variable.index] for m in search.own if self.d.both(search.post(state, m), rattling)]  # fmt: skip
            return f"{_do(list(dict.fromkeys(around)), 'never come', 'never comes')} to rest."

        found = self._judge("comes_to_rest", [Case(rattling, why)], search)
        return (
            replace(found, how=EVERY_STATE) if found.holds else found
        )  # what goes on for ever is looked for among them

    def _drops(self, rule: str, names: Sequence[str]) -> Proof:
        held = self.d.both(self.resting, self.on)
        return self._judge(rule, [Case(self.d.both(held, self.operated(x)), self._stay) for x in names if x in self.e.index])  # fmt: skip

    def _stop_drops_all(self) -> Proof:
        return self._drops("stop_drops_all", self.c.stops)

    def _emergency_stop_drops_all(self) -> Proof:
        return self._drops("emergency_stop_drops_all", self.c.of_kind("emergency_stop"))

    def _overload_drops_all(self) -> Proof:
        return self._drops("overload_drops_all", self.c.overloads)

    def _phase_monitor_drops_all(self) -> Proof:
        return self._drops("phase_monitor_drops_all", [self.c.monitor])

    def _no_self_start(self) -> Proof:
        d = self.d
        if at_once := d.both(self.search.closure(self.m.initial, self.m.own_moves), self.on):
            return self._judge("no_self_start", [Case(at_once, self._starts)])
        cases = self._outlives_power()
        leads = self.search.backwards(self.on)
        before = d.all_of((self.resting, self.released, self.off))
        for move in self.recoveries:
            came = d.both(before, self.search.pre(leads, move))
            cases.append(Case(came, partial(self._starts_after, move), (move,)))
        return self._judge("no_self_start", cases)

    def _starts_after(self, move: Move, state: int) -> str:
        return self._starts(self.search.after(state, move, self.on))

    def _starts(self, state: int) -> str:
        if held := self._held(state):
            return f"{_do(held, 'pull', 'pulls')} in without start."
        return f"The motor is on the lines without start, through the poles of {' and '.join(self.poles.feeding(state))}."  # fmt: skip

    @cached_property
    def recoveries(self) -> list[Move]:
        """Moves by which what had stopped the motor comes back: supply, monitor, trips reset, stops and emergency stop let go."""
        e, c = self.e, self.c
        back = {SUPPLY: 1}
        for name in (*c.stops, *c.overloads, *c.of_kind("emergency_stop", "monitor"), c.named("control_breaker")):
            if name in e.index and e.kinds[e.index[name]] != "selector":
                i = e.index[name]
                back[i] = 1 if e.kinds[i] == "monitor" else e.behaviours[i].rest
        return [m for m in self.m.inputs if m.after == back.get(m.variable.index)]

    def _outlives_power(self) -> list[Case]:
        """A control circuit that outlives the power circuit: a contactor that stays in through the loss starts the motor when power returns."""
        c, d = self.c, self.d
        if not c.source.alive_with_main_off:
            return []
        lines, main = c.supply.taken_lines, c.named("main_breaker")
        found = []
        before = d.all_of((self.resting, self.released))
        for what, cut, story in (
            (main, {main, c.monitor}, (f"open {main}", f"close {main}")),
            ("the supply", {c.monitor}, tuple(f"{verb} {x}" for verb in ("lose", "restore") for x in lines)),
        ):
            stays = self.m.live_without(frozenset(cut))
            stays = {k: d.both(self.m.acting[k], stays[k]) for k in self.coils}

            def why(state: int, stays: dict[str, int] = stays, what: str = what) -> str:
                held = [k for k, when in stays.items() if d.both(state, when)]
                return f"{_do(held, 'stay', 'stays')} in without power: the motor starts when {what} comes back."

            found.append(Case(d.both(before, d.any_of(stays.values())), why, then=story))
        return found

    def _every_coil_reachable(self) -> Proof:
        rule = "every_coil_reachable"
        loads = {**self.m.acting, **self.m.lit}
        missing = [x for x, when in loads.items() if not self.d.both(when, self.search.reached)]
        if missing:
            return Proof(rule, RULES[rule], False, [], f"{' and '.join(missing)} can never be energised.")
        return Proof(rule, RULES[rule], True, how=EVERY_STATE)

    def _jog_drops_out(self) -> Proof:
        """From rest only jog is touched: once it is let go everything must come out again."""
        i = self.e.index[self.c.named("jog")]
        search = Search(self.m, inputs=[m for m in self.m.inputs if m.variable.index == i])
        coil = self.d.any_of(self.m.acting[k] for k in self.coils)
        bad = self.d.all_of((self.resting, self.released, coil))
        return self._judge("jog_drops_out", [Case(bad, "Jog seals in when it is released faster than the contactor drops out.")], search)  # fmt: skip

    def _no_backfeed(self) -> Proof:
        """Ways from the control's live side to the motor that no power contactor closes."""
        ends = [t for t in self.e.node if t.partition(":")[0] == self.c.motor]
        bad = self.d.all_of((self.resting, self.off, self.m.at_live(ends)))
        return self._judge("no_backfeed", [Case(bad, "A start button puts its voltage on the motor's terminals past the open contactor.")])  # fmt: skip

    def _lamps_truthful(self) -> Proof:
        m = self.m
        known = Known(self.d, m.lit, m.position, m.supplied)
        return self._judge("lamps_truthful", [Case(self.d.both(so, self.resting), words) for words, so in lies(self.e, known)])  # fmt: skip

    def _earth_fault_tolerant(self) -> Proof:
        rule, c = "earth_fault_tolerant", self.c
        back = c.node_of[c.sources[RETURN]]
        wires = [w for w in c.wires if w.side == "control" and not w.number.startswith("H") and c.node_of[w.a] != back]
        for number in dict.fromkeys(w.number for w in wires):
            touched = frozenset(t for w in c.wires if w.number == number for t in (w.a, w.b))
            it = Decide(Engine(c, self.e.welded | self.e.stuck_poles, touched, coarse=True), None)
            it.d.until = self.d.until
            if found := it.earthed(number):
                return Proof(rule, RULES[rule], False, *found)
        return Proof(rule, RULES[rule], True, how=EVERY_STATE)

    def earthed(self, number: str) -> tuple[list[str], str] | None:
        """Story and words of an earth fault that starts the motor or defeats a stop or a trip."""
        d = self.d
        coil = d.any_of(self.m.acting[k] for k in self.coils)
        held = d.both(self.resting, coil)
        at_once = d.both(self.search.closure(self.m.initial, self.m.own_moves), held)
        if at_once:
            return [f"earth {number}"], f"With wire {number} earthed {self._held(at_once)[0]} starts by itself."
        guards = (*self.c.stops, *self.c.overloads, *self.c.of_kind("emergency_stop"))
        bad = d.both(held, d.any_of(self.operated(x) for x in guards if x in self.e.index))
        if not d.both(bad, self.search.reached):
            return None
        moves, state = self.search.story(bad)
        words = f"With wire {number} earthed {self._held(state)[0]} is not dropped out by stop or trip."
        return [f"earth {number}", *self.search.words(moves)], words
