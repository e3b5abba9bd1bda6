"""Voltage that a meter shows at every terminal in a state: to earth, by the sources and their earthing.

Plan, record and drawing ask here, so that no place calls a conductor dead that another calls live.
"""

from collections import defaultdict
from dataclasses import dataclass

from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.model.netlist import LIVE, RETURN, Circuit
from volmek.core.installation.control import against_earth_v, reading_words
from volmek.core.installation.supply import LINES

#: Conductors of sources that are no line of the supply: the two sides of a control source, the two of the heater's.
SIDES = ("side 0", "side 1")
HEATER = {"LF5": "heater line", "NF5": "heater neutral"}


@dataclass(frozen=True, slots=True)
class Reading:
    """Meter reading at a terminal.

    Attributes
    ----------
    conductors : conductors of sources that the terminal is joined to
    through : device through which it is joined, empty where by contacts alone
    to_earth_v : for each earthing that is possible [V]; None where it is not defined
    live : it may stand at a voltage to earth
    words : as it is told
    """

    conductors: frozenset[str]
    through: str
    to_earth_v: tuple[float | None, ...]
    live: bool
    words: str


def joined_conductors(sim: Simulator, s: State) -> dict[int, frozenset[str]]:
    """Conductors of every source that each node is joined to through closed contacts.

    Parameters
    ----------
    sim, s : the simulator and its state

    Examples
    --------
    >>> from volmek.core.circuit.kernel.simulate import Simulator
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> any("L1" in x for x in joined_conductors(sim, sim.begin()).values())
    True
    """
    near = _contacts(sim, s)
    found: dict[int, set[str]] = defaultdict(set)
    for name, node in _sources(sim, s).items():
        queue, seen = [node], {node}
        while queue:
            at = queue.pop()
            found[at].add(name)
            for following in near[at]:
                if following not in seen:
                    seen.add(following)
                    queue.append(following)
    return {n: frozenset(c) for n, c in found.items()}


def _contacts(sim: Simulator, s: State) -> dict[int, list[int]]:
    node, engine = sim.circuit.node_of, sim.engine
    closed = engine.closed_poles(s.positions)
    near: dict[int, list[int]] = defaultdict(list)
    for c in sim.circuit.contacts:
        shut = (
            c.name in closed
            or c.name in engine.stuck_poles
            or (c.side != "power" and s.positions[engine.index[c.device]] in c.closed_in)
        )
        if shut:
            a, b = (node[t] for t in c.terminals)
            near[a].append(b)
            near[b].append(a)
    return near


def _sources(sim: Simulator, s: State) -> dict[str, int]:
    """Nodes of the conductors of all sources, lost ones left out."""
    c, node = sim.circuit, sim.circuit.node_of
    found = {t: node[c.sources[t]] for t, line in sim.present(s) if t in c.sources and line}
    for w in c.feed:
        device, _, name = w.a.partition(":")
        if device == "supply" and name in (*LINES, "N") and name not in s.lost and name not in found:
            found[name] = node[w.b]
    if c.source.kind == "separate" and "C" not in s.lost and LIVE in c.sources:
        for side, rail in zip(SIDES, c.source.rails, strict=True):
            found[side] = node[sim.feed.incoming[rail.name]]
    if c.source.transformed and LIVE in c.sources and sim.feed.primary(sim.engine.where(s.positions), sim.there(s)):
        found |= {side: node[f"{c.named('control_transformer')}:s{k}"] for k, side in enumerate(SIDES, 1)}
    for name, conductor in HEATER.items():
        if name in c.sources:
            found[conductor] = node[c.sources[name]]
    return found


def readings(sim: Simulator, s: State, terminals: list[str]) -> dict[str, Reading]:
    """Meter readings at some terminals.

    Parameters
    ----------
    sim, s : the simulator and its state
    terminals : of the circuit

    Examples
    --------
    >>> from volmek.core.circuit.kernel.simulate import Simulator
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> [r.words for r in readings(sim, sim.begin(), ["K1:1"]).values()]
    ['about 231 V to earth by the earthing, which is not known: measure to N']
    """
    node = sim.circuit.node_of
    joined = joined_conductors(sim, s)
    beyond = _beyond(sim, s, joined)
    found = {}
    for t in terminals:
        direct = joined.get(node[t], frozenset())
        through, other = ("", direct) if direct else beyond.get(node[t], ("", frozenset()))
        found[t] = _reading(sim.circuit, other, through)
    return found


def _beyond(sim: Simulator, s: State, joined: dict[int, frozenset[str]]) -> dict[int, tuple[str, frozenset[str]]]:
    """Nodes joined to a source only through a coil, lamp or winding: a meter reads its voltage there too."""
    node, near = sim.circuit.node_of, _contacts(sim, s)
    ends = [(x.device, node[x.terminals[0]], node[x.terminals[1]]) for x in sim.circuit.loads]
    ends += [(w.device, node[w.a], node[w.b]) for w in sim.circuit.windings]
    found: dict[int, tuple[str, frozenset[str]]] = {}
    moved = True
    while moved:
        moved = False
        for name, a, b in ends:
            for x, y in ((a, b), (b, a)):
                has = joined.get(x) or (found[x][1] if x in found else frozenset())
                if not has or y in joined or y in found:
                    continue
                queue = [y]
                while queue:
                    at = queue.pop()
                    if at not in found and at not in joined:
                        found[at] = (name, has)
                        moved = True
                        queue += near[at]
    return found


def _reading(c: Circuit, conductors: frozenset[str], through: str) -> Reading:
    if not conductors:
        return Reading(conductors, "", (0.0,), live=False, words="0 V to earth")
    values: list[float | None] = []
    for name in sorted(conductors):
        if name in SIDES:
            values += against_earth_v(c.source, c.supply, SIDES.index(name))
        elif name in HEATER.values():
            values.append(230.0 if name == "heater line" else 0.0)
        else:
            values += [c.supply.to_earth_v(name, e) for e in c.supply.earthings]
    known = c.supply.line_voltage_v is not None or conductors <= set(SIDES)
    live = any(v is not None and v > 1 for v in values) or any(_may_be_live(c, n) for n in conductors)
    if not known:
        words = "the supply's voltage to earth" if live else "0 V to earth"
    else:
        words = reading_words(tuple(values), c.source.rails[1].name)
    return Reading(
        conductors, through, tuple(values), live, words + (f" (through {through})" if through and live else "")
    )


def _may_be_live(c: Circuit, name: str) -> bool:
    """A conductor with a voltage, or with an unknown one; a neutral only where its source is known to be unearthed."""
    if name in LINES or name in (SIDES[0], "heater line"):
        return True
    if name == SIDES[1]:
        return c.source.rails[1].live and c.source.earthed is not True
    return name == "N" and c.supply.earthed is False


def live_terminals(sim: Simulator, s: State) -> list[str]:
    """Terminals that are live through contacts alone, as the drawing shows them.

    Parameters
    ----------
    sim, s : the simulator and its state

    Examples
    --------
    >>> from volmek.core.circuit.kernel.simulate import Simulator
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> "K1:2" in live_terminals(sim, sim.begin())
    False
    """
    joined = joined_conductors(sim, s)
    live = {n for n, conductors in joined.items() if _reading(sim.circuit, conductors, "").live}
    return sorted(t for t, n in sim.circuit.node_of.items() if n in live)


def rail_terminals(c: Circuit) -> list[str]:
    """Terminals at which the two rails begin.

    Parameters
    ----------
    c : the circuit

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> len(rail_terminals(example().circuit))
    2
    """
    return [c.sources[x] for x in (LIVE, RETURN) if x in c.sources] if c.loads else []
