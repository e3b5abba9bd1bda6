"""The power circuit with phasors: voltage across every winding for a set of closed poles, and shorts."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from math import sqrt

from volmek.core.circuit.model.netlist import Circuit, Joined, Winding
from volmek.core.physics.numeric import ComplexArray, np

LINE = sqrt(3)
A = complex(-0.5, sqrt(3) / 2)
#: Impedance of a winding at rest, of the main field of an autotransformer, and how well its halves are coupled.
WINDING_OHM = complex(0.35, 0.94)
FIELD_OHM, COUPLING, CHOKE_OHM = 30j, 0.999, 0.1j
#: Leak to earth that gives floating parts a voltage.
LEAK = 1e-9
#: Shares of the line voltage below which a winding counts as dead, and how near two shares are the same.
DEAD, NEAR = 0.05, 0.06
DEAD_START = 0.02
#: A field turns when one sequence is so many times the other.
TURNS = 1.25


@dataclass(frozen=True, slots=True)
class PowerState:
    """State of the power circuit for a set of closed poles.

    Attributes
    ----------
    shorts : pairs of supplies, or the transformer, that are joined
    voltages : of each winding over the line voltage, as phasors
    connection : ``off``, ``star``, ``delta``, ``reduced``, ``low``, ``high``, ``half``, ``single``, ``plate`` where the box's own links are not known
    positive, negative : voltages of the two sequences on a winding over that when the motor runs
    direction : ``forward``, ``reverse``, or ``none`` where no field turns
    alive : terminals of the power circuit that are joined to a supply
    start_winding : the start winding of a single-phase motor is in circuit
    through_capacitor : it stays in circuit through a run capacitor
    """

    shorts: tuple[tuple[str, str], ...]
    voltages: dict[str, complex]
    connection: str
    positive: float
    negative: float
    direction: str
    alive: frozenset[str]
    start_winding: bool = False
    through_capacitor: bool = False


class PowerNet:
    """The power circuit of a circuit; results are kept for each set of poles and supplies."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        node = circuit.node_of
        self.poles = [
            (c.name, node[c.terminals[0]], node[c.terminals[1]]) for c in circuit.contacts if c.side == "power"
        ]
        self.windings = [w for w in circuit.windings if w.kind != "resistor" or not circuit.rotor_steps]
        self.sources = {p: node[circuit.sources[p]] for p in ("L1", "L2", "L3", "N") if p in circuit.sources}
        self.single = circuit.single_phase
        supply = circuit.supply
        # In units in which a line stands at 1 against the star point, and a single-phase motor has 1 across it.
        unit = 1 / abs(supply.phasor(supply.taken[0]) - supply.phasor(supply.taken[1])) if self.single else LINE
        self.phasors = {p: unit * supply.phasor(p) for p in ("L1", "L2", "L3", "N")}
        self.star = circuit.rated_share < 0.9 or circuit.star_delta
        self.terminals: dict[int, list[str]] = {}
        touched = {n for _, a, b in self.poles for n in (a, b)} | {
            node[t] for w in circuit.windings for t in (w.a, w.b)
        }
        for t, n in node.items():
            if n in touched:
                self.terminals.setdefault(n, []).append(t)
        self.state = lru_cache(maxsize=4096)(self._state)
        self._fed = lru_cache(maxsize=4096)(self._joined)

    def _state(self, closed: frozenset[str], present: tuple[tuple[str, str], ...]) -> PowerState:
        """Solve it.

        Parameters
        ----------
        closed : names of the closed poles
        present : line at which terminal of the supply: the same unless lines are exchanged; lost ones left out
        """
        root, fed, shorts, star = self._fed(closed, present)
        node = self.circuit.node_of
        known = {n: self.phasors[line] for n, line in fed.items()}
        voltage = self._solve(root, known, star=star)
        found = {w.name: (voltage[root(node[w.a])] - voltage[root(node[w.b])]) / LINE for w in self.windings}
        alive = frozenset(t for n, ts in self.terminals.items() for t in ts if root(n) in fed)
        start = self.single and abs(found.get("start", 0)) > DEAD_START
        by_capacitor = start and self.circuit.named("run_capacitor") in found and not self.circuit.start_switch
        return PowerState(shorts, found, *self._motor(found), alive, start, by_capacitor)

    def shorts(self, closed: frozenset[str], present: tuple[tuple[str, str], ...]) -> tuple[tuple[str, str], ...]:
        """Pairs of lines that closed poles join, and windings that they short; needs no voltages."""
        return self._fed(closed, present)[2]

    def _joined(
        self, closed: frozenset[str], present: tuple[tuple[str, str], ...]
    ) -> tuple[Callable[[int], int], dict[int, str], tuple[tuple[str, str], ...], bool]:
        """Nodes joined, the line at each, the lines that are joined, and whether a transformer's star point is closed."""
        joined: Joined[int] = Joined()
        root = joined.root
        for name, a, b in self.poles:
            if name in closed:
                joined.join(a, b)
        fed: dict[int, str] = {}
        shorts: list[tuple[str, str]] = []
        for terminal, line in present:
            at = root(self.sources[terminal])
            if at in fed:
                shorts.append((fed[at], line))
            else:
                fed[at] = line
        node = self.circuit.node_of
        bottoms = [root(node[w.b]) for w in self.windings if w.kind == "transformer" and w.name.endswith("b")]
        star = len(bottoms) == 3 and len(set(bottoms)) == 1
        for w in self.windings:
            # With its star point closed a transformer stands neither the whole voltage on its tap nor a bridged half.
            if star and w.kind == "transformer" and w.name.endswith("a"):
                top, tap = root(node[w.a]), root(node[w.b])
                if tap in fed or top == tap:
                    shorts.append((w.device, w.device))
        return root, fed, tuple(shorts), star

    def _solve(self, root: Callable[[int], int], known: dict[int, complex], *, star: bool) -> dict[int, complex]:
        node = self.circuit.node_of
        names = list(dict.fromkeys(root(n) for n in self.terminals))
        at = {n: i for i, n in enumerate(names)}
        y: ComplexArray = np.eye(len(names), dtype=np.complex128) * LEAK

        def put(a: int, b: int, value: complex) -> None:
            y[a, a] += value
            y[b, b] += value
            y[a, b] -= value
            y[b, a] -= value

        i = 0
        while i < len(self.windings):
            w = self.windings[i]
            a, b = at[root(node[w.a])], at[root(node[w.b])]
            if w.kind == "transformer" and not star:  # open, its upper half is a choke in the line
                put(a, b, 1 / CHOKE_OHM)
                i += 2
                continue
            if w.kind == "transformer":
                self._transformer(y, w, self.windings[i + 1], (a, b, at[root(node[self.windings[i + 1].b])]))
                i += 2
                continue
            put(a, b, 1 / (w.ohm * (WINDING_OHM if w.kind == "winding" else 1.0)))
            i += 1
        given = [at[n] for n in known if n in at]
        value = np.array([known[names[k]] for k in given], dtype=complex)
        free = [k for k in range(len(names)) if k not in set(given)]
        solved = np.zeros(len(names), dtype=complex)
        solved[given] = value
        if free and given:
            solved[free] = np.linalg.solve(y[np.ix_(free, free)], -y[np.ix_(free, given)] @ value)
        return {n: complex(solved[k]) for n, k in at.items()} | {n: v for n, v in known.items() if n not in at}

    @staticmethod
    def _transformer(y: ComplexArray, upper: Winding, lower: Winding, nodes: tuple[int, int, int]) -> None:
        """Two halves on one core: ampere-turns balance through the field between them."""
        p, q = abs(upper.ohm), abs(lower.ohm)
        z = FIELD_OHM * np.array([[p * p, COUPLING * p * q], [COUPLING * p * q, q * q]])
        inverse = np.linalg.inv(z)
        ends = ((nodes[0], nodes[1]), (nodes[1], nodes[2]))
        for i, (a, b) in enumerate(ends):
            for j, (c, d) in enumerate(ends):
                value = inverse[i, j]
                y[a, c] += value
                y[a, d] -= value
                y[b, c] -= value
                y[b, d] += value

    def _motor(self, v: dict[str, complex]) -> tuple[str, float, float, str]:
        rated = self.circuit.rated_share
        if self.single:
            main = abs(v.get("main", 0)) * LINE
            if main < DEAD:
                return "off", 0.0, 0.0, "none"
            start = v.get("start")
            if start is None:  # a shaded pole, or a motor with its start winding inside
                return "single", main, 0.0, "forward"
            if abs(start) <= DEAD_START:
                return "single", main, 0.0, "none"
            ohm = next(w.ohm for w in self.windings if w.name == "start")
            turns = "forward" if (start / ohm / v["main"]).imag > 0 else "reverse"
            return "single", main, 0.0, turns
        groups = {w.group for w in self.windings if w.kind == "winding"} - {"other"}
        live = {g: [v[w.name] for w in self.windings if w.group == g and w.kind == "winding"] for g in groups}
        best = max(live, key=lambda g: sum(abs(x) for x in live[g]))
        three = live[best]
        most = max(abs(x) for x in three)
        if most < DEAD:
            return "off", 0.0, 0.0, "none"
        positive = abs(three[0] + A * three[1] + A * A * three[2]) / 3
        negative = abs(three[0] + A * A * three[1] + A * three[2]) / 3
        if best == "tapped":
            high = abs(most - 1 / LINE) < NEAR
            name, rated = ("high", 1 / LINE) if high else ("low", 0.5)
        elif best == "box":
            name = "plate" if abs(most - rated) < NEAR else "reduced"
        elif best in ("low", "high"):
            name = best
        elif "half" in groups:
            other = live["half" if best == "" else ""]
            name = "star" if max(abs(x) for x in other) > DEAD else "half"
        else:
            name = (
                "delta" if abs(most - 1) < NEAR else "star" if abs(most - 1 / LINE) < NEAR and self.star else "reduced"
            )
        turns = "forward" if positive > TURNS * negative else "reverse" if negative > TURNS * positive else "none"
        return name, positive / rated, negative / rated, turns
