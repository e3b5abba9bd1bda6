"""Fuse links of IEC practice: gG and aM, by the gates of IEC 60269."""

from collections.abc import Callable, Sequence

from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.context import Context
from volmek.core.devices.device import Check, Objection
from volmek.core.devices.settings import Settings
from volmek.core.devices.short_circuit import Duty, Kind, no_edge
from volmek.core.physics.thermal import (
    FUSE_USE_LIMIT,
    am_time_s,
    gg_fast_time_s,
    gg_gates,
    gg_prearcing_i2t_a2s,
    gg_slow_time_s,
)
from volmek.core.results.figures import as_read

LEAST_START_S = 1.0
SOURCE = "IEC 60269-1 and 60269-2, gates"


def start_use(melts_s: Callable[[float], float], steps: Sequence[tuple[float, float]]) -> float:
    """Share of a fuse's melting that one start uses up, by the rule Σ dt/t(I).

    Parameters
    ----------
    melts_s : earliest melting time at a current [s]
    steps : seconds and current [A] of the start

    Examples
    --------
    >>> start_use(lambda amps: 400 / amps, [(1, 100), (1, 50)])
    0.375

    References
    ----------
    Linear damage sum; below 0.7 leaves room for ageing.
    """
    return sum(dt / melts_s(amps) for dt, amps in steps if amps > 0)


def _lasting(duty: Duty, melts_s: Callable[[float], float], name: str) -> Objection | None:
    """The start at its own current, and one second at the whole starting current, whichever uses more."""
    for steps in ([(LEAST_START_S, duty.locked_a)], _steps(duty)):
        used = start_use(melts_s, steps)
        if used >= FUSE_USE_LIMIT:
            hottest = max(amps for _, amps in steps)
            seconds = sum(dt for dt, _ in steps)
            return Objection(
                "fuse_melts_in_start",
                f"{name} may melt after {as_read(melts_s(hottest))} s at {as_read(hottest)} A; {as_read(seconds)} s of the start use "
                f"{100 * used:.0f} % of that, {100 * FUSE_USE_LIMIT:.0f} % is allowed",
                "load.start_time_s",
            )
    return None


def _steps(duty: Duty) -> list[tuple[float, float]]:
    """The start; one whose length is only assumed counts as a second, from which the usual ratings come."""
    if not duty.profile.steps and not duty.start_known:
        return [(LEAST_START_S, duty.starting_a)]
    steps = duty.steps
    return [(max(steps[0][0], LEAST_START_S), steps[0][1])] if len(steps) == 1 else steps


def _gg_checks(c: Context, duty: Duty) -> Sequence[Check[ShortCircuitDevice]]:
    def known(d: ShortCircuitDevice) -> Objection | None:
        if d.rated_current_a in gg_gates():
            return None
        return Objection("fuse_without_gates", f"no gates are known for {d.type}", "protection.device")

    def lasts(d: ShortCircuitDevice) -> Objection | None:
        if d.rated_current_a not in gg_gates():
            return None
        return _lasting(duty, lambda amps: gg_fast_time_s(d.rated_current_a, amps), d.type)

    def peak(d: ShortCircuitDevice) -> Objection | None:
        if d.rated_current_a not in gg_gates():
            return None
        able, used = gg_prearcing_i2t_a2s(d.rated_current_a), duty.peak_a**2 * 0.01
        if used < FUSE_USE_LIMIT * able:
            return None
        return Objection(
            "fuse_peak",
            f"the peak inrush puts {as_read(used)} A²s through {d.type}; it may melt from {as_read(able)} A²s",
            "assumptions.inrush_peak_factor",
        )

    return [known, lasts, peak]


def _am_checks(c: Context, duty: Duty) -> Sequence[Check[ShortCircuitDevice]]:
    return [lambda d: _lasting(duty, lambda amps: am_time_s(d.rated_current_a, amps), d.type)]


KINDS = {
    "fuse_gg": Kind(
        label="Fuse gG",
        practice="iec",
        checks=_gg_checks,
        settings=lambda c, duty, d: Settings(),
        rule="smallest rating ≥ In that the start leaves below 0.7 of its melting",
        source=SOURCE,
        lower_edge_a=no_edge,
        upper_edge_a=no_edge,
        fast_time_s=lambda d, amps: gg_fast_time_s(d.rated_current_a, amps),
        slow_time_s=lambda d, amps: gg_slow_time_s(d.rated_current_a, amps),
    ),
    "fuse_am": Kind(
        label="Fuse aM",
        practice="iec",
        checks=_am_checks,
        settings=lambda c, duty, d: Settings(),
        rule="smallest rating ≥ In that the start leaves below 0.7 of its melting; it does not clear overloads",
        source=SOURCE,
        lower_edge_a=no_edge,
        upper_edge_a=no_edge,
        fast_time_s=lambda d, amps: am_time_s(d.rated_current_a, amps),
        slow_time_s=lambda d, amps: am_time_s(d.rated_current_a, amps, slow=True),
    ),
}
