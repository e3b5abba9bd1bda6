"""A circuit operated as a fitter does it: made ready, started, stopped; and the lamp table that is seen on the way."""

from dataclasses import replace

from volmek.core.circuit.kernel.dynamics import Dynamics, usual
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import Event, State
from volmek.core.circuit.model.behaviour import IN
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.document.errors import ProblemError

#: Time relays run so short here that a whole start takes moments [s]; what a monitor may take to drop out.
SHORT_S, WHOLE_START_S, MONITOR_S = 0.3, 2.2, 3.0


def quick(circuit: Circuit) -> Circuit:
    """The same circuit with time relays that run short.

    Parameters
    ----------
    circuit : of the starter

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.examples import example_document
    >>> max(d.time_s for d in quick(circuit_of(example_document(starter={"type": "star_delta"}))).devices.values()) <= SHORT_S
    True
    """
    timed = ("timer", "star_delta_timer", "soft_starter")
    devices = {
        n: replace(d, time_s=min(d.time_s, SHORT_S) or SHORT_S, pause_s=min(d.pause_s, 0.05)) if d.kind in timed else d
        for n, d in circuit.devices.items()
    }
    return replace(circuit, devices=devices)


class Operator:
    """Operates a circuit whose time relays run short.

    Attributes
    ----------
    sim : the simulation
    log : everything that happened
    start : button of the first start, None where a maintained contact calls
    """

    def __init__(self, circuit: Circuit, dynamics: Dynamics | None = None, engine: Engine | None = None) -> None:
        self.circuit = circuit
        self.sim = Simulator(circuit, dynamics or usual(0.4), engine)
        self.log: list[Event] = []
        self.starts = [s for s in circuit.starts if circuit.devices[s].role not in ("reset", "jog")]
        self.start = self.starts[0] if self.starts else None

    def wait(self, s: State, seconds: float) -> State:
        """Let time pass."""
        return self.sim.advance(s, seconds, self.log)

    def do(self, s: State, operation: str, seconds: float = 0.5) -> State:
        """One operation and some time; nothing where the damaged circuit does not know it."""
        try:
            return self.wait(self.sim.operate(s, operation, self.log), seconds)
        except ProblemError:
            return s

    def ready(self, s: State, *, duty: int = 1) -> State:
        """Selectors to where they call the motor, field contacts closed, latches reset.

        Parameters
        ----------
        duty : position of a stand-by selector: 1 runs, 2 stands by
        """
        c = self.circuit
        for name in c.of_kind("selector"):
            positions = c.devices[name].positions
            role = c.devices[name].role
            if role == "jog_selector":
                s = self.do(s, f"turn {name} run", 0.1)
            elif role == "duty":
                s = self.do(s, f"turn {name} {positions[duty]}", 0.4)
            elif role != "heater_switch":
                s = self.do(s, f"turn {name} {positions[1]}", 0.4)
        for name in c.of_kind("field"):
            if not c.devices[name].opens and not (duty == 2 and c.devices[name].role == "standby_pressure"):
                s = self.do(s, f"close {name}", 0.1)
        for name in c.starts:
            if c.devices[name].role == "reset":
                s = self.do(self.do(s, f"press {name}", 0.2), f"release {name}", 0.2)
        return s

    def press(self, s: State, button: str | None) -> State:
        """The start button held, where there is one."""
        return self.do(s, f"press {button}", 0.5) if button else s

    def started(self, s: State, button: str | None = None) -> State:
        """Made ready, started and run up."""
        button = button or self.start
        s = self.press(self.ready(s), button)
        if button:
            s = self.do(s, f"release {button}", 0.1)
        return self.wait(s, WHOLE_START_S)

    def running(self, s: State) -> bool:
        """The motor is on the lines."""
        return self.sim.electrical(s).connection != "off"


def lamp_table(circuit: Circuit) -> dict[str, dict[str, bool]]:
    """Truth table of the lamps, read while the circuit is operated.

    Parameters
    ----------
    circuit : of the starter

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.document.model import parse
    >>> lamp_table(circuit_of(parse({"tag": "A", "control": {"lamps": ["running"]}})))["running"]
    {'P1': True}
    """
    if not circuit.loads:
        return {}
    o = Operator(quick(circuit))
    lamps = o.sim.lamps
    rest = o.wait(o.sim.begin(), 0.6)
    table = {"idle": lamps(rest)}
    running = _seen_running(o, rest, table)
    for name, operation, seconds in _guards(circuit):
        table[name] = lamps(o.do(running, operation, seconds))
    table["control off"] = lamps(o.do(rest, f"open {circuit.named('control_breaker')}"))
    if heater := circuit.named("heater_switch"):
        table["heater switched on"] = lamps(o.do(rest, f"turn {heater} on"))
    if circuit.named("duty"):
        table["armed"] = lamps(o.wait(o.ready(rest, duty=2), 4 * SHORT_S))
    return table


def _seen_running(o: Operator, rest: State, table: dict[str, dict[str, bool]]) -> State:
    """Rows of every feeder that runs alone at some time of a start; the state in which the first start ended."""
    feeders, first = o.circuit.feeders, rest
    for k, button in enumerate(o.starts or [None]):
        s = o.press(o.ready(rest), button)
        for step in range(2 + round(WHOLE_START_S / 0.2)):
            into = [f for f in feeders if s.positions[o.sim.engine.index[f]] == IN]
            if len(into) == 1 and not any(at <= s.time_s + 0.05 for _, _, at in s.due):
                table["running" if len(feeders) == 1 else f"running {into[0]}"] = o.sim.lamps(s)
            s = o.do(s, f"release {button}", 0.2) if button and step == 1 else o.wait(s, 0.2)
        first = s if k == 0 else first
    return first


def _guards(c: Circuit) -> list[tuple[str, str, float]]:
    """States that follow on a running motor: name, operation, and the time that it takes."""
    found = [("tripped", c.trial(c.overloads[0])[0], 0.6)] if c.overloads else []
    found += [("stop pressed", f"press {stop}", 0.6) for stop in c.stops[:1] if c.devices[stop].kind == "button"]
    found += [("emergency stop", f"press {stop}", 0.6) for stop in c.of_kind("emergency_stop")]
    if c.monitor:
        found.append(("phase fault", c.monitor_trial[0], MONITOR_S))
    return found
