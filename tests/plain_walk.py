"""A second opinion for the proofs: every state one by one, each input on its own, no diagrams. Slow, and short enough to be read."""

from collections import deque
from dataclasses import dataclass

from volmek.core.circuit.kernel.engine import Engine, Positions
from volmek.core.circuit.kernel.power import PowerNet
from volmek.core.circuit.model.behaviour import HALF

State = tuple[Positions, bool]


@dataclass
class PlainWalk:
    """States that a circuit comes into, with the fewest operations to each."""

    e: Engine

    def __post_init__(self) -> None:
        e, c = self.e, self.e.circuit
        named = {*c.stops, *c.starts, *c.overloads, *c.of_kind("emergency_stop", "monitor")}
        contacts = [x.device for x in e.contacts if x.side == "control"]
        self.values = {
            i: b.values(c.devices[n], contacts.count(n))
            for i, (n, b) in enumerate(zip(e.names, e.behaviours, strict=True))
            if not b.coil and (n in contacts or n in named)
        }
        self.fewest: dict[State, int] = {(e.at_rest(), True): 0}
        queue = deque(self.fewest)
        while queue:
            state = queue.popleft()
            for after, costs in [(x, 0) for x in self.own(state)] + [(x, 1) for x in self.operated(state)]:
                so_far = self.fewest[state] + costs
                if after not in self.fewest or self.fewest[after] > so_far:
                    self.fewest[after] = so_far
                    queue.append(after) if costs else queue.appendleft(after)
        self.net = PowerNet(c)

    def own(self, state: State) -> list[State]:
        positions, supplied = state
        return [((*positions[:i], p, *positions[i + 1 :]), supplied) for i, p in self.e.moves(positions, supplied=supplied)]  # fmt: skip

    def operated(self, state: State) -> list[State]:
        positions, supplied = state
        found = [(positions, not supplied)]
        for i, values in self.values.items():
            for v in values:
                by_half = HALF in values and self.e.kinds[i] != "selector" and len(values) == 3
                if v != positions[i] and not (by_half and abs(v - positions[i]) > 1):
                    found.append(((*positions[:i], v, *positions[i + 1 :]), supplied))
        return found

    def on(self, state: State) -> bool:
        """A coil of the power circuit is live, or the motor has a voltage."""
        e, (positions, supplied) = self.e, state
        live = e.live_loads(e.closed(positions)) if supplied else frozenset()
        fed = self.net.state(e.closed_poles(positions), tuple((p, p) for p in self.net.sources)).connection != "off"
        return fed or bool(live & set(e.circuit.power_contactors))

    def held_on(self, names: list[str]) -> bool:
        """At rest something is on though one of some guards acts."""
        at = {n: self.e.index[n] for n in names}
        rest = {n: 0 if self.e.kinds[i] in ("selector", "monitor") else None for n, i in at.items()}
        return any(
            any(s[0][at[n]] == rest[n] if rest[n] is not None else s[0][at[n]] != self.e.behaviours[at[n]].rest for n in at)
            and not self.own(s)
            and self.on(s)
            for s in self.fewest
        )  # fmt: skip
