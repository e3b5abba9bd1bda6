"""Heat of frequent starting: r.m.s. current over one cycle against relay and motor."""

from math import sqrt

from volmek.core.context import Context
from volmek.core.devices.dial import Dial
from volmek.core.physics.profile import Profile, heat_a2s
from volmek.core.physics.thermal import MUST_TRIP_MULTIPLE, NO_TRIP_MULTIPLE
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read


def cycle_current_a(start_a2s: float, start_s: float, running_a: float, period_s: float) -> float:
    """R.m.s. current over a cycle of one start and running until the next one.

    Parameters
    ----------
    start_a2s, start_s : heat and length of one start [A²s], [s]
    running_a : current until the next start [A]
    period_s : from start to start [s], at least ``start_s``

    Examples
    --------
    >>> round(cycle_current_a(2 * 72**2, 2, 10, 30), 1)
    21.0

    References
    ----------
    Definition; equivalent current of IEC 60034-1, 4.2.4 (S4), without credit for standstill.
    """
    return sqrt((start_a2s + running_a**2 * (period_s - start_s)) / period_s)


def check_cycle(c: Context, plate: Plate, dial: Dial, designation: str, profile: Profile) -> Figure | None:
    """Starts an hour against the overload protection and the motor; None where nobody says how often it starts.

    Parameters
    ----------
    dial : of the overload protection
    designation : of the device with the dial
    profile : current of one start

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> s = example(load={"start_time_s": 3, "starts_per_hour": 120})
    >>> [f.severity for f in s.design.findings if f.code == "starts_too_often"]
    ['stop']

    References
    ----------
    IEC 60947-4-1, 8.2.1.5 (limits of a trip); IEC 60034-1, 4.2.4 and 6.
    """
    often = c.document.load.starts_per_hour
    if often is None:
        return None
    w, period = c.working, 3600 / often
    # The rectangle is told as motor current, a computed run-up as it flows where the protection lies.
    place = dial.factor if profile.steps else 1.0
    steps = [(dt, amps / place) for dt, amps in profile.through(dial.start_share, dial.stage_shares)]
    # Plugging brakes at about the current of the start, for about as long.
    plugged = c.document.load.ac4_share
    start_s, full = sum(dt for dt, _ in steps) * (1 + plugged), plate.design.number
    typed = w.typed("load.starts_per_hour", "Starts per hour", "z", often, "1/h")
    if start_s >= period:
        c.find("stop", "starts_too_often", f"{often:g} starts an hour leave {as_read(period)} s for each, and one start takes {as_read(start_s)} s.",
               "load.starts_per_hour", device=designation)  # fmt: skip
        return None
    rms = w.add(
        "cycle_current_a", "R.m.s. motor current over one cycle, as the overload protection sees it", "Irms",
        cycle_current_a(heat_a2s(steps) * (1 + plugged), start_s, full, period), "A", formula="√((∫Ia²dt + In²·(3600/z − ts))·z/3600)", inputs=(typed, plate.design, dial.line),
        rule="it runs at full load from start to start" + (f"; {100 * plugged:g} % of them inching or plugging, each as long again at the current of the start" if plugged else ""),
        source="IEC 60034-1, 4.2.4",
    )  # fmt: skip
    ratio, carries = rms.number / (dial.line.number * plate.permitted.number / dial.base.number), plate.permitted.number
    if ratio > NO_TRIP_MULTIPLE:
        surely = ratio > MUST_TRIP_MULTIPLE
        c.find("stop" if surely else "attention", "starts_too_often", f"{often:g} starts an hour heat like {rms.text} A continuously, {ratio:.2f} times the setting of "
               f"{designation}: it {'trips' if surely else 'may trip'}, and the motor gets too hot unless it stands still long enough between them.",
               "load.starts_per_hour", device=designation)  # fmt: skip
    elif rms.number > NO_TRIP_MULTIPLE * carries:
        c.find("attention", "starts_too_often", f"{often:g} starts an hour heat like {rms.text} A continuously, above the derated full-load current of {as_read(carries)} A: "
               "the motor gets too hot unless it stands still long enough between them.", "load.starts_per_hour", device=designation)  # fmt: skip
    return rms
