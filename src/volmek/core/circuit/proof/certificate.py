"""A proof as a file that somebody else can check: netlist, behaviour, the set of states that nothing leaves, and the verdicts."""

import hashlib
import json
from collections.abc import Sequence
from typing import Any

from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.model.behaviour import BEHAVIOURS, MOVING
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit
from volmek.core.circuit.proof.model import SUPPLY
from volmek.core.circuit.proof.rules import LIMIT_S, Decide, Proof, decided
from volmek.core.document.errors import Problem, ProblemError

VERSION = 1
ASSUMPTIONS = (
    "Contacts and coils stand and move as the table of behaviour says; contactors, relays and time relays pull in and drop out in any order and at any time.",
    "Every input moves alone and at any time: buttons, selectors, overload relays, monitors, field contacts, the control supply.",
    "Conductors are laid as the netlist says, none of them is broken or earthed, and no contact is welded.",
    "Devices are rated for what they switch: that is the design's, not the proof's.",
)


def netlist_of(c: Circuit) -> dict[str, Any]:
    """What a proof is about, as plain data.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> netlist_of(example().circuit)["loads"][0]
    ['K1', 'K1:A1', 'K1:A2']
    """
    live = [c.sources[LIVE]] if LIVE in c.sources else []
    if live and c.source.from_lines:
        live.append(c.sources[c.source.feeds[0]])
    return {
        "devices": {n: {"kind": d.kind, "positions": len(d.positions), "form": d.form} for n, d in sorted(c.devices.items())},
        "contacts": sorted([x.name, x.device, *x.terminals, sorted(x.closed_in), x.side] for x in c.contacts if x.side != "feed"),
        "loads": sorted([x.device, *x.terminals] for x in c.loads),
        "wires": sorted([w.number, w.a, w.b] for w in (*c.wires, *c.feed)),
        "windings": sorted([w.name, w.a, w.b, w.kind] for w in c.windings),
        "live": live,
        "return": [c.sources[RETURN]] if RETURN in c.sources else [],
        "lines": {p: c.sources[p] for p in ("L1", "L2", "L3", "N") if p in c.sources},
        "forbidden": [list(x) for x in c.forbidden],
        "levers": [list(x) for x in c.mechanical],
        "feeders": list(c.feeders),
        "power_contactors": list(c.power_contactors),
        "starts": list(c.starts),
        "stops": list(c.stops),
        "overloads": list(c.overloads),
        "outlives_power": c.source.alive_with_main_off,
        "monitor": c.monitor,
        "monitor_behind": c.monitor_behind,
    }  # fmt: skip


def behaviour_table() -> dict[str, list[list[int]]]:
    """Of each kind of device with a coil: position, coil live or not, lever holds it or not, and the position that follows.

    Examples
    --------
    >>> behaviour_table()["contactor"][0]
    [0, 1, 0, 1]
    """
    found: dict[str, list[list[int]]] = {}
    for kind in MOVING:
        b = BEHAVIOURS[kind]
        assert b.states is not None
        found[kind] = [
            [int(at), int(live), int(locked), int(after)]
            for at in b.states if not (kind in ("contactor", "relay") and at == 4)  # held by a welded pole: not here
            for live in (True, False) for locked in (False, True)
            if (after := b.follows(int(at), live=live, locked=locked)) is not None
        ]  # fmt: skip
    return found


def digest_of(data: object) -> str:
    """Digest of plain data, however it was ordered.

    Examples
    --------
    >>> digest_of({"b": 1, "a": 2}) == digest_of({"a": 2, "b": 1})
    True
    """
    return hashlib.sha256(json.dumps(data, sort_keys=True, separators=(",", ":")).encode()).hexdigest()


def certificate_of(
    tag: str, sim: Simulator, own: Sequence[str] = (), limit_s: float | None = LIMIT_S
) -> dict[str, Any]:
    """Proofs of a circuit with what is needed to check them.

    Parameters
    ----------
    tag : of the starter
    sim : of its circuit as designed, without faults
    own : rules of the user
    limit_s : as for ``prove``

    Raises
    ------
    ProblemError : a circuit with a welded contact or an earth fault, or without control circuit.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> certificate_of("A-1", Simulator(example().circuit))["states"]
    144
    """
    e, c = sim.engine, sim.circuit
    if e.welded or e.stuck_poles or e.earth or not e.loads:
        raise ProblemError(
            [Problem("fault", "a certificate is of a control circuit as designed, without faults in it")]
        )
    proofs = list(decided(c, e, limit_s, own, sim))
    x = Decide(e, limit_s)
    reached = x.search.reached
    nodes, number = _nodes(x, reached)
    netlist, behaviour = netlist_of(c), behaviour_table()
    return {
        "certificate": "volmek proof", "version": VERSION, "tag": tag,
        "digest": digest_of([netlist, behaviour]), "netlist": netlist, "behaviour": behaviour, "assumptions": list(ASSUMPTIONS),
        "method": "Reachable states as a decision diagram: every set is whole, nothing is sampled. The set given here holds the state at rest and "
                  "is left by no move; a rule holds where it meets none of the states that break it.",
        "variables": [
            {"device": "" if i == SUPPLY else e.names[i], "positions": [int(p) for p in v.positions], "levels": list(v.levels)}
            for i, v in x.m.variables.items()
        ],
        "diagram": nodes, "reached": number, "states": x.d.count(reached, x.m.levels),
        "rules": [_told(p) for p in proofs],
    }  # fmt: skip


def _told(p: Proof) -> dict[str, Any]:
    return {
        "rule": p.rule,
        "words": p.words,
        "holds": p.holds,
        "declared": p.declared,
        "how": p.how,
        "why": p.why,
        "story": p.shortest,
    }


def _nodes(x: Decide, function: int) -> tuple[list[list[int]], int]:
    """Nodes of a function, those below first: level, low and high; 0 and 1 are the leaves, the first of the list is 2."""
    number = {0: 0, 1: 1}
    found: list[list[int]] = []

    def walk(f: int) -> int:
        if f not in number:
            low, high = walk(x.d.low[f]), walk(x.d.high[f])
            found.append([x.d.level[f], low, high])
            number[f] = len(found) + 1
        return number[f]

    return found, walk(function)
