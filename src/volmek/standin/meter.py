"""A panel meter that is not there: a Modbus TCP server whose registers follow the simulated starter, start and faults included."""

import asyncio
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from math import sqrt

from pymodbus.client.mixin import ModbusClientMixin
from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from volmek.core.circuit.kernel.simulate import LINES
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.simulated import SimulatedStarter
from volmek.core.document.model import StarterDocument
from volmek.core.physics.motor_model import START_POWER_FACTOR
from volmek.meters.registers import stand_in_map

STEP_S = 0.02
#: Current over rated current below which a start is over, and share of the voltage that a running motor gives back on a lost line.
OVER, GIVES_BACK = 1.3, 0.7
UNBALANCE = (1.0, 0.994, 1.006)


@dataclass
class PanelMeter:
    """Quantities at a meter in the supply of a starter.

    Attributes
    ----------
    it : the starter's circuit
    volts, hertz, rated_a, power_factor : of supply and motor
    """

    it: SimulatedStarter
    volts: float
    hertz: float
    rated_a: float
    power_factor: float
    state: State = field(init=False)
    peak_a: float = 0.0
    start_s: float = 0.0
    star_s: float = 0.0
    dwell_s: float = 0.0

    def __post_init__(self) -> None:
        self.sim = self.it.simulator
        self.state = self.sim.begin()
        self.began: float | None = None
        self.gap: float | None = None
        self.starting = False

    def operate(self, operation: str) -> None:
        """An operation at the starter, as in the circuit's simulation.

        Raises
        ------
        ProblemError : an operation that the circuit does not know.
        """
        self.state = self.sim.operate(self.state, operation)

    def advance(self, seconds: float) -> None:
        """Let time pass, watching the current as a meter does."""
        end = self.state.time_s + seconds
        while self.state.time_s < end - 1e-9:
            due = min((at for _, _, at in self.state.due), default=end)
            until = min(end, self.state.time_s + STEP_S, max(due, self.state.time_s + 1e-4))
            self.state = self.sim.advance(self.state, until - self.state.time_s)
            self._watch()

    def _watch(self) -> None:
        now, amps = self.state.time_s, self.line_a()
        flows = amps > 0.02 * self.rated_a
        if flows and self.began is None:
            self.began, self.starting, self.peak_a, self.star_s, self.dwell_s, self.start_s = (
                now,
                True,
                0.0,
                0.0,
                0.0,
                0.0,
            )
        if self.began is None:
            return
        if flows and self.gap is not None:
            if self.star_s == 0:
                self.star_s, self.dwell_s = self.gap - self.began, now - self.gap
            self.gap = None
        elif not flows and self.gap is None:
            self.gap = now
        elif not flows and self.gap is not None and now - self.gap > 1:  # switched off
            self.began, self.gap, self.starting = None, None, False
            return
        if self.starting:
            self.peak_a = max(self.peak_a, amps)
            if flows and amps < OVER * self.rated_a and not self._reduced() and now - self.began > 0.05:
                self.start_s, self.starting = now - self.began, False

    def _reduced(self) -> bool:
        """A stage of the start that something follows."""
        connection = self.sim.electrical(self.state).connection
        return connection in ("reduced", "half") or (connection == "star" and self.sim.circuit.rated_share > 0.9)

    def line_a(self) -> float:
        """Current in the lines that carry one [A]."""
        power = self.sim.electrical(self.state)
        if power.connection == "off":
            return 0.0
        share = 1.0
        if power.connection == "star" and self.sim.circuit.rated_share > 0.9:
            share = 1 / sqrt(3)  # a winding made for delta, in star
        elif power.connection == "reduced" and "T2" in self.sim.circuit.devices:
            share = power.positive  # the transformer draws less than it gives
        return self.state.amps * self.rated_a * share

    def values(self) -> dict[str, float]:
        """Readings of the meter, by quantity."""
        s = self.state
        q1 = self.sim.main is None or bool(s.positions[self.sim.main])
        amps = self.line_a() if q1 else 0.0
        level = self.volts * s.voltage_pct / 100 * (1.0 if q1 else 0.0)
        drive = self.it.built.start.drive if self.it.built else None
        if drive is not None:
            level = max(level - sqrt(3) * amps * abs(drive.board_ohm), 0.0)
        turning = abs(s.speed) > 0.4 and amps > 0
        found: dict[str, float] = {}
        for a, b in (("L1", "L2"), ("L2", "L3"), ("L3", "L1")):
            lost = bool({a, b} & s.lost)
            found[f"voltage_{a}_{b}".lower()] = level * (1.0 if not lost else GIVES_BACK if turning else 0.0)
        found["voltage_l1_n"] = 0.0 if "L1" in s.lost else level if self.sim.circuit.single_phase else level / sqrt(3)
        for n, line in enumerate(LINES):
            here = line not in s.lost and (line == "L1" or not self.sim.circuit.single_phase)
            found[f"current_{line}".lower()] = amps * UNBALANCE[n] if here else 0.0
        ratio = amps / self.rated_a if self.rated_a else 0.0
        factor = self.power_factor + (START_POWER_FACTOR - self.power_factor) * min(max((ratio - 1) / 5, 0), 1)
        found |= {
            "frequency": self.hertz if level else 0.0, "power_factor": factor if amps else 0.0, "active_power": sqrt(3) * level * amps * factor / 1000,
            "start_current": self.peak_a, "start_time": self.start_s, "star_time": self.star_s, "dwell_ms": 1000 * self.dwell_s,
        }  # fmt: skip
        return found


def panel_meter(document: StarterDocument, it: SimulatedStarter) -> PanelMeter:
    """A meter in the supply of a starter; usual values where the plate says nothing."""
    supply, motor = document.supply, document.motor
    current = motor.rated_current_delta_a or motor.rated_current_a or motor.rated_current_star_a or 10.0
    if it.sized is not None:
        current = it.sized.plate.design.number
    volts = supply.line_voltage_v or 400.0
    if motor.phases == 1:
        volts = motor.rated_voltage_v or volts
    return PanelMeter(it, volts, supply.frequency_hz or 50.0, current, motor.power_factor or 0.85)


class MeterServer:
    """The stand-in on a port, in a thread of its own; its clock runs with the wall's, or faster.

    Parameters
    ----------
    meter : what it shows
    port : 0 takes a free one
    speed : seconds of the starter in one second
    """

    def __init__(
        self, meter: PanelMeter, port: int = 0, speed: float = 1.0, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.meter, self.speed, self.clock = meter, speed, clock
        self.lock = threading.Lock()
        self.last = clock()
        self.port = port or _free_port()
        self._ready, self._stop = threading.Event(), threading.Event()
        self._failed: BaseException | None = None
        self._thread = threading.Thread(target=self._serve, daemon=True)

    def start(self) -> "MeterServer":
        """Begin to answer.

        Raises
        ------
        OSError : the port cannot be used.
        """
        self._thread.start()
        self._ready.wait(10)
        if self._failed is not None:
            raise OSError(f"the stand-in cannot use port {self.port}")
        return self

    def stop(self) -> None:
        """Answer no more."""
        self._stop.set()
        self._thread.join(5)

    def operate(self, operation: str) -> None:
        """An operation at the simulated starter, now.

        Raises
        ------
        ProblemError : an operation that the circuit does not know.
        """
        with self.lock:
            self._catch_up()
            self.meter.operate(operation)

    def advance(self, seconds: float) -> None:
        """Let time pass at once."""
        with self.lock:
            self._catch_up()
            self.meter.advance(seconds)

    def _catch_up(self) -> None:
        now = self.clock()
        self.meter.advance(min((now - self.last) * self.speed, 600))
        self.last = now

    def _registers(self) -> list[int]:
        with self.lock:
            self._catch_up()
            values = self.meter.values()
        found: list[int] = []
        for r in stand_in_map():
            found += ModbusClientMixin.convert_to_registers(values[r.quantity], ModbusClientMixin.DATATYPE.FLOAT32)
        return found

    def _serve(self) -> None:
        first = stand_in_map()[0].address

        async def show(code: int, start: int, address: int, count: int, registers: list[int], values: object) -> None:
            del code, address, count, values
            found = self._registers()
            registers[first - start : first - start + len(found)] = found

        async def main() -> None:
            device = SimDevice(
                id=1,
                simdata=[SimData(first, values=[0.0] * len(stand_in_map()), datatype=DataType.FLOAT32)],
                action=show,
            )
            server = ModbusTcpServer(device, address=("127.0.0.1", self.port))
            await server.serve_forever(background=True)
            self._ready.set()
            while not self._stop.is_set():
                await asyncio.sleep(0.05)
            await server.shutdown()

        try:
            asyncio.run(main())
        except (OSError, RuntimeError) as error:
            self._failed = error
            self._ready.set()


def _free_port() -> int:
    import socket

    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])
