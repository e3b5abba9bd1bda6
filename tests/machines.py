"""Sampled induction machines of three families, their plates, and what truly happens to them: solved here, sharing nothing with the core.

All in per unit of rated phase voltage and rated current, time in seconds. A machine has a stator, main field and two or three rotor
circuits; its leakage saturates by a describing function of the current. ``sampled()`` is fixed by its seed and was written before the
circuit of the core was fitted to anything; ``python tests/machines.py`` (a minute) writes plates and truth to ``machines.json``.
"""

import json
from dataclasses import dataclass
from functools import lru_cache
from math import asin, log10, pi, sqrt
from pathlib import Path
from typing import Any

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

FAMILIES = ("double cage", "saturating", "three circuits")
SEED, EACH = 20260, 10


@dataclass(frozen=True)
class Machine:
    """rs, xs stator; xm main field; g iron; rotor resistances and reactances; knee and remaining share of saturated leakage."""

    family: str
    kw: float
    poles: int
    rs: float
    xs: float
    xm: float
    g: float
    rotor: tuple[tuple[float, float], ...]
    knee: float
    left: float
    friction: float
    slip: float
    star_field: float  # main reactance in star over that in delta

    def share(self, amps: float) -> float:
        """What is left of the leakage at a current: a saturating slot bridge."""
        if amps <= self.knee:
            return 1.0
        q = self.knee / amps
        return self.left + (1 - self.left) * 2 / pi * (asin(q) + q * sqrt(1 - q * q))

    def impedance(self, slip: float, k: float, field: float = 1.0) -> tuple[complex, float]:
        """Impedance of a phase, and gap power over the square of its current."""
        y = sum(1 / (r / slip + 1j * k * x) for r, x in self.rotor)
        gap = 1 / (y + self.g - 1j / (field * self.xm))
        return self.rs + 1j * k * self.xs + gap, float(abs(gap) ** 2 * y.real)

    def running(self, slip: float, volts: float = 1.0, field: float = 1.0) -> tuple[complex, float]:
        """Current and shaft torque at a slip, in synchronous watts."""
        k, z, gap = 1.0, 1j, 0.0
        for _ in range(60):
            z, gap = self.impedance(slip, k, field)
            k += 0.5 * (self.share(volts / abs(z)) - k)
        return volts / z, volts**2 * gap / abs(z) ** 2 - self.friction * (1 - slip)

    @property
    def rated_torque(self) -> float:
        return self.running(self.slip)[1]

    def slip_at(self, torque: float, volts: float = 1.0, field: float = 1.0) -> float:
        """Stable slip at a load in synchronous watts."""
        grid = np.geomspace(self.slip / 60, 0.9, 220)
        m = [self.running(s, volts, field)[1] - torque for s in grid]
        i = next(k for k in range(len(grid) - 1) if m[k] <= 0 < m[k + 1])
        return float(brentq(lambda s: self.running(s, volts, field)[1] - torque, grid[i], grid[i + 1]))

    def lost_phase(self, load: float) -> dict[str, float]:
        """One line open while it runs: positive and negative sequence in series across two lines; the load is a constant torque."""

        def at(slip: float) -> tuple[complex, complex, complex, float]:
            k = 1.0
            for _ in range(60):
                z1, p1 = self.impedance(slip, k)
                z2, p2 = self.impedance(2 - slip, k)
                k += 0.5 * (self.share(sqrt(3) / abs(z1 + z2)) - k)
            i1 = 1 / (z1 + z2)
            return i1, z1, z2, abs(i1) ** 2 * (p1 - p2) - self.friction * (1 - slip)

        want = load * self.rated_torque
        grid = np.geomspace(self.slip / 20, 0.8, 160)
        m = np.array([at(s)[3] for s in grid])
        stalls_at = float(m.max()) / self.rated_torque
        if stalls_at <= load:
            return {"stalls_at": stalls_at}
        i = next(k for k in range(len(grid) - 1) if m[k] <= want < m[k + 1])
        i1, z1, z2, _ = at(float(brentq(lambda s: at(s)[3] - want, grid[i], grid[i + 1])))
        a = np.exp(2j * pi / 3)
        v1, v2 = z1 * i1, -z2 * i1
        phases = [v1 + v2, a * a * v1 + a * v2, a * v1 + a * a * v2]
        lines = [abs(phases[p] - phases[(p + 1) % 3]) / sqrt(3) for p in range(3)]
        return {
            "stalls_at": stalls_at,
            "line": sqrt(3) * abs(i1),
            "lowest_line_voltage": min(lines),
            "unbalance": abs(v2 / v1),
        }

    def peak(self, angle_deg: float, slip: float, slip_after: float, pause_s: float, hertz: float = 50.0) -> float:
        """Greatest line current after closing in delta, peak over √2 rated: flux equations in the synchronous frame, leakage by the instantaneous current."""
        n, w = len(self.rotor), 2 * pi * hertz
        r = np.array([self.rs, *(r for r, _ in self.rotor)])

        def inductance(k: float, field: float) -> Any:
            leakage = np.diag([k * self.xs, *(k * x for _, x in self.rotor)])
            return field * self.xm * np.ones((n + 1, n + 1)) + leakage

        star = abs(self.running(slip, 1 / sqrt(3), self.star_field)[0])
        spin = np.diag([1.0, *([slip] * n)])
        el = inductance(self.share(star), self.star_field)
        i0 = np.linalg.solve(np.diag(r) + 1j * spin @ el, np.array([1 / sqrt(3), *([0] * n)], dtype=complex))
        psi = (el @ i0)[1:]
        # Off the supply: the rotor's flux decays by itself and turns back against the supply.
        inner = inductance(1.0, self.star_field)[1:, 1:]
        decay = np.diag(r[1:]) @ np.linalg.inv(inner)
        values, vectors = np.linalg.eig(-w * decay)
        middle = 0.5 * (slip + slip_after)
        rest = vectors @ (np.exp(values * pause_s) * np.linalg.solve(vectors, psi)) * np.exp(-1j * w * middle * pause_s)
        currents = np.linalg.solve(inner, rest)
        start = np.array([self.star_field * self.xm * currents.sum(), *rest])
        volts = np.exp(1j * angle_deg * pi / 180)
        turn = np.array([1.0, *([slip_after] * n)])

        def solved(flux: Any) -> Any:
            k, i = 1.0, None
            for _ in range(12):
                i = np.linalg.solve(inductance(k, 1.0), flux)
                k += 0.6 * (self.share(abs(i[0])) - k)
            return i

        def slope(_: float, y: Any) -> Any:
            flux = y[: n + 1] + 1j * y[n + 1 :]
            d = w * (np.array([volts, *([0] * n)]) - r * solved(flux) - 1j * turn * flux)
            return np.concatenate([d.real, d.imag])

        y0 = np.concatenate([start.real, start.imag])
        run = solve_ivp(slope, (0, 2.5 / hertz), y0, method="RK45", rtol=1e-5, atol=1e-7, max_step=2e-4)
        return max(float(abs(solved(run.y[: n + 1, j] + 1j * run.y[n + 1 :, j])[0])) for j in range(run.y.shape[1]))

    def plate(self, rng: np.random.Generator) -> dict[str, float]:
        """A name plate and data sheet of it: rounded, and off by up to a third of the tolerances of IEC 60034-1."""
        i, m = self.running(self.slip)
        cos, eta = i.real / abs(i), m * (1 - self.slip) / i.real
        at_rest, torque = self.running(1.0)
        most = max(self.running(s)[1] for s in np.geomspace(1.5 * self.slip, 0.8, 120))

        def off(tolerance: float) -> float:
            return 1 + float(rng.uniform(-tolerance / 3, tolerance / 3))

        synchronous = 6000 / self.poles
        rpm = synchronous * (1 - self.slip * off(0.2))
        amps = self.kw * 1000 / (sqrt(3) * 400 * cos * eta)
        digits = 2 - int(np.floor(log10(amps)))
        return {
            "rated_power_kw": self.kw,
            "rated_current_delta_a": round(amps, digits),
            "power_factor": round(cos - float(rng.uniform(-1, 1)) * (1 - cos) / 18, 2),
            "efficiency_pct": round(100 - 100 * (1 - eta) * off(0.15), 1),
            "rated_speed_rpm": round(rpm) if self.kw > 30 else 5 * round(rpm / 5),
            "locked_rotor_current_ratio": round(abs(at_rest) * off(0.2), 1),
            "locked_rotor_torque_ratio": round(torque / m * off(0.2), 1),
            "breakdown_torque_ratio": round(most / m * off(0.1), 1),
        }


def _machine(family: str, rng: np.random.Generator) -> Machine:
    while True:
        kw = float(round(10 ** rng.uniform(log10(1.1), log10(315)), 1))
        size = log10(kw / 1.1) / log10(315 / 1.1)
        poles = int(rng.choice([2, 4, 4, 4, 6, 8]))
        eta, cos = (
            0.80 + 0.16 * size + rng.uniform(-0.015, 0.015),
            0.78 + 0.09 * size - 0.012 * (poles - 4) + rng.uniform(-0.03, 0.03),
        )
        loss, slip = cos * (1 - eta), (0.055 - 0.046 * size) * rng.uniform(0.75, 1.25)
        leakage = rng.uniform(0.16, 0.24)
        r1 = slip / cos * rng.uniform(1.0, 1.2)
        knee, left = (
            (rng.uniform(1.5, 2.5), rng.uniform(0.45, 0.65))
            if family == "saturating"
            else (rng.uniform(2, 4), rng.uniform(0.7, 0.85))
        )
        rotor = [
            (r1, leakage * rng.uniform(0.6, 0.9)),
            (rng.uniform(2.5, 6) * r1 + 0.02, leakage * rng.uniform(0.2, 0.45)),
        ]
        if family == "three circuits":
            rotor.append((rng.uniform(3, 8) * rotor[1][0], leakage * rng.uniform(0.1, 0.3)))
        sinus = sqrt(1 - cos**2)
        raw = Machine(
            family, kw, poles, rs=loss * rng.uniform(0.28, 0.45), xs=leakage * rng.uniform(0.35, 0.55), xm=1 / (sinus * rng.uniform(0.62, 0.9)),
            g=0.19 * loss, rotor=tuple((float(r), float(x)) for r, x in rotor), knee=float(knee), left=float(left), friction=loss * rng.uniform(0.12, 0.25),
            slip=float(slip), star_field=float(rng.uniform(1.05, 1.35)),
        )  # fmt: skip
        made = _scaled(raw)
        i, m = made.running(made.slip)
        at_rest, torque = made.running(1.0)
        most = max(made.running(s)[1] for s in np.geomspace(1.5 * made.slip, 0.8, 60))
        cos_is = i.real / abs(i)
        if (
            4.5 < abs(at_rest) < 8.8
            and 1.3 < torque / m < 3.4
            and 2.0 < most / m < 3.8
            and most > 1.05 * torque
            and 0.68 < cos_is < 0.93
        ):
            return made


def _scaled(raw: Machine) -> Machine:
    """The machine with its rated current as the unit."""
    made = raw
    for _ in range(30):
        f = abs(made.running(made.slip)[0])
        made = Machine(made.family, made.kw, made.poles, made.rs * f, made.xs * f, made.xm * f, made.g / f,
                       tuple((r * f, x * f) for r, x in made.rotor), made.knee, made.left, made.friction / f, made.slip, made.star_field)  # fmt: skip
    return made


@lru_cache(maxsize=1)
def sampled() -> tuple[tuple[Machine, dict[str, float]], ...]:
    """Thirty machines, ten of each family, with their plates."""
    rng = np.random.default_rng(SEED)
    machines = [_machine(family, rng) for family in FAMILIES for _ in range(EACH)]
    return tuple((m, m.plate(rng)) for m in machines)


#: Load in star and pause [s] of the change-overs that are tried.
CHANGE_OVERS = ((0.3, 0.05), (0.55, 0.05), (0.55, 0.3))
LOADS = (0.6, 0.9, 1.0)
FILE = Path(__file__).with_name("machines.json")


def truth(machine: Machine) -> dict[str, Any]:
    """What truly happens to a machine: lost phase at three loads, and the peak after three pauses with each link pattern."""
    peaks = []
    for load, pause in CHANGE_OVERS:
        try:
            slip = machine.slip_at(load * machine.rated_torque, 1 / sqrt(3), machine.star_field)
        except StopIteration:  # it does not carry this load in star
            continue
        after = slip + load * pause
        both = [machine.peak(angle, slip, after, pause) for angle in (30, -30)]
        peaks.append(
            {"load": load, "pause_s": pause, "slip": slip, "after": after, "common": both[0], "favourable": both[1]}
        )
    return {"lost_phase": {str(load): machine.lost_phase(load) for load in LOADS}, "peaks": peaks}


if __name__ == "__main__":
    rows = [{"family": m.family, "plate": plate, "truth": truth(m)} for m, plate in sampled()]
    FILE.write_text("[\n" + ",\n".join(json.dumps(row, default=float) for row in rows) + "\n]\n")
