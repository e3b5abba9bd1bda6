"""Equivalent circuit of a cage motor, fitted to its plate: for the lost phase, and for the current after the pause of star-delta.

Star equivalent in per unit of rated phase voltage and rated current, torque in synchronous watts; two cages, leakage that saturates.
"""

from dataclasses import dataclass, replace
from functools import lru_cache
from math import exp, log, pi, radians, sqrt
from typing import Any, Literal

from volmek.core.physics.numeric import Array, ComplexArray, np

#: Shares of all losses: iron at rated load; friction, windage and stray.
IRON_SHARE, FRICTION_SHARE, LOAD_FLUX = 0.17, 0.19, 0.88
#: Main field in star over that in delta: the iron is less saturated.
STAR_FIELD = 1.2
#: Rated power below which no circuit is fitted [kW].
LEAST_KW = 0.75
#: A motor at synchronous speed is taken to slip by so much.
LEAST_SLIP = 1e-6
PASSES, SLIPS = 5, 28
Value = Literal[
    "rated_current", "power_factor", "rated_speed", "locked_rotor_current", "locked_rotor_torque", "breakdown_torque"
]
#: Standard deviation of a plate value that is given, and of a typical one.
GIVEN: dict[Value, float] = {"rated_current": 0.006, "power_factor": 0.011, "rated_speed": 0.01, "locked_rotor_current": 0.012,
                             "locked_rotor_torque": 0.02, "breakdown_torque": 0.018}  # fmt: skip
TYPICAL: dict[Value, float] = {"rated_current": 1.2, "power_factor": 0.036, "rated_speed": 0.2, "locked_rotor_current": 0.13,
                               "locked_rotor_torque": 0.18, "breakdown_torque": 0.12}  # fmt: skip
#: How far a given value may be off for the circuit to be taken.
CLOSES: dict[Value, float] = {"rated_current": 0.02, "power_factor": 0.027, "rated_speed": 0.03, "locked_rotor_current": 0.05,
                              "locked_rotor_torque": 0.08, "breakdown_torque": 0.08}  # fmt: skip
NAMES = ("rs", "xs", "xm", "r1", "x1", "r2", "x2", "a")
LOW = (0.003, 0.015, 0.7, 0.002, 0.02, 0.005, 0.002, 0.0)
HIGH = (0.15, 0.30, 8.0, 0.15, 0.60, 1.5, 0.40, 0.55)


@dataclass(frozen=True, slots=True)
class PlateValues:
    """Values of a plate that the circuit is fitted to.

    Attributes
    ----------
    power_factor, efficiency : at rated load [-]
    rated_slip, slip_step : [-], and what the rounding of the speed is worth of it
    locked_rotor_current, locked_rotor_torque, breakdown_torque : Ia/In, Ma/Mn, Mb/Mn [-]
    given : those that are on the plate; the others are typical
    """

    power_factor: float
    efficiency: float
    rated_slip: float
    slip_step: float
    locked_rotor_current: float
    locked_rotor_torque: float
    breakdown_torque: float
    given: frozenset[Value]

    def sigma(self, value: Value) -> float:
        """Standard deviation of a value, relative; of the power factor as it is."""
        if value not in self.given:
            return TYPICAL[value]
        if value == "rated_speed":
            return max(GIVEN[value], 0.4 * self.slip_step / self.rated_slip)
        return GIVEN[value]


@dataclass(frozen=True, slots=True)
class MotorCircuit:
    """The circuit.

    Attributes
    ----------
    rs, xs, xm : stator and main field
    r1, x1, r2, x2 : the cages
    a : saturation of the leakage
    g, pm : iron, and friction with stray losses
    mn, sn : rated torque in synchronous watts, rated slip
    """

    rs: float
    xs: float
    xm: float
    r1: float
    x1: float
    r2: float
    x2: float
    a: float
    g: float
    pm: float
    mn: float
    sn: float

    def impedance(self, slip: Array | float, k: Array | float) -> tuple[ComplexArray, Array]:
        """Impedance of a phase, and gap power over the square of its current."""
        slip = np.maximum(slip, LEAST_SLIP)
        y = 1 / (self.r1 / slip + 1j * k * self.x1) + 1 / (self.r2 / slip + 1j * k * self.x2)
        gap = 1 / (y + self.g - 1j / self.xm)
        return np.asarray(self.rs + 1j * k * self.xs + gap), np.asarray(np.abs(gap) ** 2 * np.real(y))

    def saturated(self, amps: Array | float) -> Array:
        """Share of the leakage reactances left by saturation at a current."""
        return np.asarray(1 - self.a * np.maximum(0.0, 1 - 2 / np.maximum(amps, 1e-9)))

    def at(self, slip: Array | float, volts: float = 1.0) -> tuple[ComplexArray, Array]:
        """Current and shaft torque over Mn at a slip.

        Examples
        --------
        >>> c = MotorCircuit(0.02, 0.09, 3.2, 0.022, 0.13, 0.11, 0.05, 0.3, 0.015, 0.016, 0.8, 0.02)
        >>> round(float(abs(c.at(1.0)[0])), 2)
        7.57
        """
        k: Array = np.asarray(1.0)
        for _ in range(PASSES):
            z, gap = self.impedance(slip, k)
            k = self.saturated(volts / np.abs(z))
        z, gap = self.impedance(slip, k)
        return volts / z, (volts**2 * gap / np.abs(z) ** 2 - self.pm * (1 - np.asarray(slip))) / self.mn

    def lost_phase(self, slip: Array) -> tuple[ComplexArray, ComplexArray, ComplexArray, Array]:
        """Z1, Z2, I1 and shaft torque over Mn with one line open, at slips."""
        amps: Array = np.full_like(slip, 2.0)
        for _ in range(PASSES):
            k = self.saturated(amps)
            (z1, p1), (z2, p2) = self.impedance(slip, k), self.impedance(2 - slip, k)
            amps = np.asarray(sqrt(3) / np.abs(z1 + z2))
        i1 = 1 / (z1 + z2)
        return z1, z2, i1, (np.abs(i1) ** 2 * (p1 - p2) - self.pm * (1 - slip)) / self.mn

    @property
    def stalls_on_two_phases_at(self) -> float:
        """Load above which it stalls with one line open, over Mn."""
        return float(_lost_phase_way(self)[1][-1])

    def slips_at(self, loads: Array, *, open_line: bool) -> Array:
        """Slips at which loads are carried, on three lines or with one open; NaN where it stalls.

        Parameters
        ----------
        loads : over Mn [-]
        open_line : one line is open
        """
        slips, torque = _lost_phase_way(self) if open_line else _whole_way(self)
        found = np.exp(np.interp(loads, torque, np.log(slips)))
        return np.asarray(np.where(loads <= torque[-1], found, np.nan))

    def at_frequency(self, times: float) -> "MotorCircuit":
        """The same motor at so many times its frequency and voltage: reactances over impedance stay, resistances count less."""
        if times == 1:
            return self
        return replace(self, rs=self.rs / times, r1=self.r1 / times, r2=self.r2 / times, sn=self.sn / times)

    def _inductance(self, k: float, field: float) -> Any:
        return field * self.xm * np.ones((3, 3)) + k * np.diag([self.xs, self.x1, self.x2])

    def reclosing_peak(
        self, angle_deg: float, slip: float, slip_after: float, pause_s: float, hertz: float
    ) -> tuple[float, complex]:
        """Peak of the line current after closing in delta over the peak of rated current, and the voltage left on the winding.

        Parameters
        ----------
        angle_deg : of the supply over the winding against star: +30 common links, −30 favourable ones
        slip, slip_after : when star opens and when delta closes [-]
        pause_s, hertz : between, and of the supply

        Examples
        --------
        >>> c = MotorCircuit(0.02, 0.09, 3.2, 0.022, 0.13, 0.11, 0.05, 0.3, 0.015, 0.016, 0.8, 0.02)
        >>> [round(c.reclosing_peak(angle, 0.05, 0.06, 0.05, 50)[0], 1) for angle in (30, -30)]
        [12.7, 8.1]

        References
        ----------
        Flux equations in the synchronous frame: the loaded motor in star, its rotor alone in the pause, then delta with the leakage of the
        peak's own current.
        """
        w, r = 2 * pi * hertz, np.array([self.rs, self.r1, self.r2])
        start, left = _opened(self, slip, slip_after, pause_s, hertz)
        u = np.array([np.exp(1j * radians(angle_deg)), 0, 0])
        turn, t = np.diag([1, slip_after, slip_after]), np.linspace(0, 3 / hertz, 200)
        peak = _locked(self)
        for _ in range(3):
            el = self._inductance(float(self.saturated(peak)), 1.0)
            inverse_l = np.linalg.inv(el)
            system = np.diag(r) @ inverse_l + 1j * turn
            settled = np.linalg.solve(system, u)
            values, vectors = np.linalg.eig(-w * system)
            weights = np.linalg.solve(vectors, start - settled)
            psi = settled[:, None] + vectors @ (np.exp(values[:, None] * t) * weights[:, None])
            peak = float(np.max(np.abs(inverse_l[0] @ psi)))
        return peak, left


def _rising(slips: Array, torque: Array) -> tuple[Array, Array]:
    """The way up to the greatest torque."""
    top = int(np.argmax(torque)) + 1
    return slips[:top], np.maximum.accumulate(torque[:top])


@lru_cache(maxsize=256)
def _locked(circuit: MotorCircuit) -> float:
    return float(abs(circuit.at(1.0)[0]))


@lru_cache(maxsize=128)
def _opened(
    circuit: MotorCircuit, slip: float, slip_after: float, pause_s: float, hertz: float
) -> tuple[ComplexArray, complex]:
    """Fluxes of stator and cages when delta closes, and the voltage left on the winding: the same for every way of linking."""
    w, r, field = 2 * pi * hertz, np.array([circuit.rs, circuit.r1, circuit.r2]), STAR_FIELD * circuit.xm
    star = float(abs(circuit.at(slip, 1 / sqrt(3))[0]))
    el = circuit._inductance(float(circuit.saturated(star)), STAR_FIELD)
    i = np.linalg.solve(np.diag(r) + 1j * np.diag([1, slip, slip]) @ el, np.array([1 / sqrt(3), 0, 0], dtype=complex))
    flux = (el @ i)[1:]
    inner = circuit._inductance(1.0, STAR_FIELD)[1:, 1:]
    decay, inverse = np.diag(r[1:]) @ np.linalg.inv(inner), np.linalg.inv(inner)
    values, vectors = np.linalg.eig(-w * decay)
    turned = w * 0.5 * (slip + slip_after) * pause_s
    flux = vectors @ (np.exp(values * pause_s) * np.linalg.solve(vectors, flux)) * np.exp(-1j * turned)
    stator = field * np.sum(inverse @ flux)
    left = complex(1j * (1 - slip_after) * stator - field * np.sum(inverse @ decay @ flux))
    return np.array([stator, *flux]), left


@lru_cache(maxsize=256)
def _lost_phase_way(circuit: MotorCircuit) -> tuple[Array, Array]:
    slips = np.geomspace(0.02 * circuit.sn, 0.8, 400)
    return _rising(slips, circuit.lost_phase(slips)[3])


@lru_cache(maxsize=256)
def _whole_way(circuit: MotorCircuit) -> tuple[Array, Array]:
    slips = np.geomspace(0.005 * circuit.sn, 0.8, 400)
    return _rising(slips, circuit.at(slips)[1])


@dataclass(frozen=True, slots=True)
class Fit:
    """A fitted circuit, None where it does not close; and the plate value that does not belong to the others."""

    circuit: MotorCircuit | None
    doubted: Value | None = None


def _fixed(p: PlateValues) -> tuple[float, float, float, float, float]:
    """All losses, iron, friction, rated torque, and gap torque at rated slip."""
    losses = p.power_factor * (1 - p.efficiency)
    pm, mn = FRICTION_SHARE * losses, p.power_factor * p.efficiency / (1 - p.rated_slip)
    return losses, IRON_SHARE * losses / LOAD_FLUX, pm, mn, mn + pm / (1 - p.rated_slip)


def _priors(p: PlateValues) -> tuple[list[float], list[float]]:
    losses, _, _, mn, tn = _fixed(p)
    ra, mb, sn, pf = p.locked_rotor_current, p.breakdown_torque, p.rated_slip, p.power_factor
    xk = 0.93 / ra / (1 - 0.3 * (1 - 2 / ra))
    i0 = 1.09 * max(0.2, sqrt(1 - pf**2) - pf * (mb - sqrt(mb**2 - 1)))
    xs = 0.45 * xk
    rs = min(max(0.64 * losses - tn * sn, 0.25 * losses), 0.6 * losses)
    start = [
        rs,
        xs,
        0.97 / i0 - xs,
        1.1 * sn / pf,
        0.75 * xk,
        2.3 * p.locked_rotor_torque * mn / ra**2,
        0.32 * xk,
        0.30,
    ]
    known = {"breakdown_torque", "power_factor"} <= p.given
    return start, [0.20, 0.20, 0.09 if known else 0.15, 0.20, 0.25, 0.50, 0.50, 0.12]


def _deviations(theta: Array, p: PlateValues) -> Array:
    """ln of value over plate (of the power factor the difference) for a stack of unknowns; the unknowns' own deviations follow elsewhere."""
    _, g, pm, mn, tn = _fixed(p)
    rs, xs, xm, r1, x1, r2, x2 = (np.exp(theta[:, j, None]) for j in range(7))
    a, sn = theta[:, 7, None], p.rated_slip
    s = np.concatenate([[sn, 1.0], np.geomspace(1.5 * sn, 0.8, SLIPS)])[None, :]
    k: Array = np.ones((1, 1))
    for _ in range(PASSES + 1):
        y = 1 / (r1 / s + 1j * k * x1) + 1 / (r2 / s + 1j * k * x2)
        gap = 1 / (y + g - 1j / xm)
        z = rs + 1j * k * xs + gap
        size = np.abs(z)
        k = 1 - a * np.maximum(0.0, 1 - 2 * size)
    torque = np.abs(gap) ** 2 * y.real / size**2
    m = (torque[:, 2:] - pm * (1 - s[:, 2:])) / mn
    top = np.clip(np.argmax(m, axis=1), 1, SLIPS - 2)
    rows = np.arange(len(m))
    before, most, after = m[rows, top - 1], m[rows, top], m[rows, top + 1]
    most = most - 0.125 * (after - before) ** 2 / np.minimum(after - 2 * most + before, -1e-9)
    return np.stack([
        -np.log(size[:, 0]), z[:, 0].real / size[:, 0] - p.power_factor, np.log(torque[:, 0] / tn), -np.log(size[:, 1] * p.locked_rotor_current),
        np.log(torque[:, 1] / (p.locked_rotor_torque * mn)), np.log(np.maximum(most, 1e-6) / p.breakdown_torque),
    ], axis=1)  # fmt: skip


def _solved(p: PlateValues) -> tuple[MotorCircuit, dict[Value, float]]:
    """Least squares of the plate values and the unknowns' usual values."""
    from scipy.optimize import least_squares

    start, spread = _priors(p)
    low, high = ([*(log(v) for v in limit[:7]), limit[7]] for limit in (LOW, HIGH))
    begin = np.clip(
        np.array([*(log(max(v, 1e-4)) for v in start[:7]), start[7]]), np.array(low) + 1e-6, np.array(high) - 1e-6
    )
    sigma = np.array([p.sigma(v) for v in GIVEN])
    step, asked = 1e-4, {"theta": np.zeros(8), "slope": np.zeros((14, 8))}

    def off(theta: Array) -> Array:
        stack = np.concatenate([theta[None, :], theta + step * np.eye(8)])
        d = _deviations(stack, p) / sigma
        asked["theta"], asked["slope"] = (
            theta.copy(),
            np.concatenate([(d[1:] - d[0]).T / step, np.diag(1 / np.array(spread))]),
        )
        return np.concatenate([d[0], (theta - begin) / spread])

    def slope(theta: Array) -> Array:
        if not np.array_equal(theta, asked["theta"]):
            off(theta)
        return np.asarray(asked["slope"])

    found = least_squares(off, begin, slope, bounds=(low, high), x_scale=np.array(spread), ftol=4e-3, max_nfev=14)
    deviations = dict(zip(GIVEN, _deviations(found.x[None, :], p)[0].tolist(), strict=True))
    _, g, pm, mn, _ = _fixed(p)
    values = dict(zip(NAMES, [*(exp(v) for v in found.x[:7]), float(found.x[7])], strict=True))
    return MotorCircuit(**values, g=g, pm=pm, mn=mn, sn=p.rated_slip), deviations


def _closes(p: PlateValues, circuit: MotorCircuit, deviations: dict[Value, float]) -> dict[Value, float]:
    """Given values that are too far off, each with how many times its limit; empty when all close."""
    limits = {v: max(CLOSES[v], 2 * p.sigma(v)) if v == "rated_speed" else CLOSES[v] for v in p.given}
    return {v: abs(deviations[v]) / limit for v, limit in limits.items() if abs(deviations[v]) > limit}


def _saddled(circuit: MotorCircuit) -> bool:
    """Its torque does not fall below half of that at standstill on the way."""
    m = circuit.at(np.linspace(0.3, 1.0, 15))[1]
    return bool(np.min(m) >= 0.5 * m[-1])


@lru_cache(maxsize=512)
def fit(p: PlateValues) -> Fit:
    """The circuit of a plate; fitted once more without the value that is furthest off where it does not close.

    Parameters
    ----------
    p : values of the plate, typical ones in the place of missing ones

    Examples
    --------
    >>> known = frozenset(GIVEN)
    >>> f = fit(PlateValues(0.86, 0.939, 0.0133, 0.0003, 7.2, 2.3, 2.7, known))
    >>> f.doubted is None, round(float(abs(f.circuit.at(1.0)[0])), 1)
    (True, 7.2)

    References
    ----------
    Double-cage equivalent circuit (IEC 60034-28 for the single-cage form); shares of losses and usual values by sampled motors.
    """
    circuit, deviations = _solved(p)
    wrong = _closes(p, circuit, deviations)
    if not wrong and _saddled(circuit):
        return Fit(circuit)
    doubted = max(
        wrong or {v: abs(deviations[v]) / CLOSES[v] for v in p.given},
        key=lambda v: (wrong or deviations).get(v, 0.0),
        default=None,
    )
    if doubted is None:
        return Fit(None)
    again = replace(p, given=p.given - {doubted})
    circuit, deviations = _solved(again)
    if _closes(again, circuit, deviations) or not _saddled(circuit):
        return Fit(None, doubted)
    return Fit(circuit, doubted)
