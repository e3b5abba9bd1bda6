"""Supply of the control rails: from the incomer through every breaker on the way."""

from collections.abc import Mapping
from functools import lru_cache

from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit, Joined


class Feed:
    """The way from the supply to the control rails, for the positions of main, primary and control breaker."""

    def __init__(self, circuit: Circuit) -> None:
        self.c = circuit
        self.transformer = circuit.named("control_transformer")
        self.contacts = [
            c
            for c in circuit.contacts
            if c.side == "feed" or (c.side == "power" and c.device == circuit.named("main_breaker"))
        ]
        self.devices = tuple(dict.fromkeys(c.device for c in self.contacts))
        self.incoming = {w.a.partition(":")[2]: w.b for w in circuit.feed if w.a.startswith("supply:")}
        self._alive = lru_cache(maxsize=512)(self._reached)

    def alive(self, positions: Mapping[str, int], present: frozenset[str]) -> bool:
        """Both rails have the control voltage.

        Parameters
        ----------
        positions : by designation
        present : conductors of the supply that are there; ``C`` is a control supply of its own
        """
        if LIVE not in self.c.sources:
            return True
        return self._alive(frozenset(d for d in self.devices if positions.get(d) == 1), present)

    def primary(self, positions: Mapping[str, int], present: frozenset[str]) -> bool:
        """The primary side of the control transformer or power unit has its voltage."""
        closed = frozenset(d for d in self.devices if positions.get(d) == 1)
        joined = self._joined(closed)
        return all(f in present for f in self.c.source.feeds) and self._primary(joined)

    def _joined(self, closed: frozenset[str]) -> Joined[int]:
        joined: Joined[int] = Joined()
        node = self.c.node_of
        for c in self.contacts:
            if c.device in closed:
                joined.join(node[c.terminals[0]], node[c.terminals[1]])
        return joined

    def _begins(self) -> list[str]:
        """Incoming terminals of the conductors that feed the source."""
        return [self.c.sources.get(f) or self.incoming[f] for f in self.c.source.feeds]

    def _primary(self, joined: Joined[int]) -> bool:
        node = self.c.node_of
        return all(
            joined.root(node[a]) == joined.root(node[f"{self.transformer}:p{k}"])
            for k, a in enumerate(self._begins(), 1)
        )

    def _reached(self, closed: frozenset[str], present: frozenset[str]) -> bool:
        joined, node = self._joined(closed), self.c.node_of

        def meets(a: str, b: str) -> bool:
            return joined.root(node[a]) == joined.root(node[b])

        source = self.c.source
        rails = (self.c.sources[LIVE], self.c.sources[RETURN])
        if source.kind == "separate":
            return "C" in present and all(
                meets(self.incoming[r.name], t) for r, t in zip(source.rails, rails, strict=True)
            )
        if not all(f in present for f in source.feeds):
            return False
        if not source.transformed:
            return all(meets(a, b) for a, b in zip(self._begins(), rails, strict=True))
        return self._primary(joined) and all(meets(f"{self.transformer}:s{k}", t) for k, t in enumerate(rails, 1))
