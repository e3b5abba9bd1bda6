"""Trip class by the start that must pass, the stall that must not, and the restart from warm."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf, log

from volmek.core.context import Context
from volmek.core.devices.dial import Dial
from volmek.core.physics.profile import Profile, longest_warm, thermal_peak
from volmek.core.physics.thermal import BAND_SOURCE, MUST_TRIP_MULTIPLE, TripClassEdges, trip_class_edges
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Candidate, Figure, as_read, within

#: Trip classes from the fastest to the slowest.
CLASS_ORDER = ("5", "5E", "10A", "10", "10E", "20", "20E", "30", "30E", "40E")


#: The least class that is proposed when the starting time is not known.
LEAST_ASSUMED_CLASS = CLASS_ORDER.index("10")


#: A permitted stall time below this asks for class 5.
SHORT_STALL_S = 10.0


LIKELY_MARGIN = 1.25


@dataclass(frozen=True, slots=True)
class ClassChoice:
    """A trip class with how sure the start is to pass, and the standstill that a restart from warm needs."""

    trip_class: str
    figure: Figure
    certainty: str
    warm: Figure | None


def _after(seconds: float) -> str:
    """Time at which a relay trips in a start, in words."""
    return f"after {as_read(seconds)} s" if seconds < inf else "only later in the start"


def choose_class(
    c: Context,
    plate: Plate,
    dial: Dial,
    offered: Sequence[str],
    role: str,
    designation: str,
    at: str,
    start: Figure,
    profile: Profile,
) -> ClassChoice:
    """The smallest offered class that surely lets the start pass, else the smallest likely one, with its findings.

    Parameters
    ----------
    offered : classes that devices holding the dial come in
    role, designation : of the device
    at : field of the document that a finding about the class points at
    start : its length
    profile : the start that must pass

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("F1", protection={"device": "fuse_am"}, load={"start_time_s": 12}).settings.trip_class
    '30E'

    References
    ----------
    IEC 60947-4-1, Tables 2 and 3.
    """
    w, m = c.working, c.document.motor
    seconds = as_read(profile.start_s)
    at_rest = plate.locked_rotor.number * dial.base.number / plate.permitted.number
    stalled = at_rest / dial.ratio / dial.used.number
    x = stalled * dial.start_share
    whole = x == plate.locked_rotor.number / dial.used.number
    multiple = w.add(
        f"{role}.start_multiple",
        "Starting current over setting",
        "x",
        x,
        formula="Ia / Iset" if whole else f"{x * dial.used.number / plate.locked_rotor.number:.3g}·Ia / Iset",
        inputs=(plate.locked_rotor, dial.used),
        rule="" if whole else "as it flows through the relay during the start",
        source="arithmetic",
    )
    override = c.document.override(role)
    own = override.trip_class if override and override.trip_class in offered else None
    assumed, stall = start.typical and not profile.steps, m.permitted_stall_time_s
    setting = dial.used.number * dial.ratio * plate.permitted.number / dial.base.number
    if profile.steps:  # its stages tell what flows where the relay is
        setting *= dial.factor
    steps = profile.through(dial.start_share, dial.stage_shares)
    stretched = profile.through(dial.start_share, dial.stage_shares, LIKELY_MARGIN)

    def certain(edges: TripClassEdges) -> bool:
        return thermal_peak(edges.fast, steps, setting) < 1

    def usual(edges: TripClassEdges) -> bool:
        return thermal_peak(edges.mean, stretched, setting) < 1

    looked_at: dict[str, tuple[bool, str]] = {}
    sure: list[str] = []
    likely: list[str] = []
    for name in sorted(offered, key=CLASS_ORDER.index):
        edges = trip_class_edges(name)
        fast, mean = edges.fast.trip_time_s(x), edges.mean.trip_time_s(x)
        usually = "for ever" if mean == inf else f"{as_read(mean)} s"
        reason = f"holds {as_read(fast)} s for sure, usually {usually}" if fast < inf else "never trips at this current"
        if profile.steps:
            quick, typical = (thermal_peak(e, steps, setting) for e in (edges.fast, edges.mean))
            reason = f"the start takes the fastest relay to {100 * quick:.0f} % of tripping, a typical one to {100 * typical:.0f} %"
        if name.startswith("5") and (stall is None or stall >= SHORT_STALL_S):
            looked_at[name] = (False, f"{reason}; class 5 is for motors with a permitted stall time under 10 s")
        elif assumed and CLASS_ORDER.index(name) < LEAST_ASSUMED_CLASS:
            looked_at[name] = (False, f"{reason}; no class below 10 while the starting time is not known")
        else:
            looked_at[name] = (usual(edges) or certain(edges), reason)
            if certain(edges):
                sure.append(name)
            elif usual(edges):
                likely.append(name)
    taken: str = own or [*sure, *likely, max(offered, key=CLASS_ORDER.index)][0]
    certainty = "sure" if taken in sure else "likely" if taken in likely else "no"
    if own and taken not in sure and taken not in likely:
        edges = trip_class_edges(taken)
        certainty = "sure" if certain(edges) else "likely" if usual(edges) else "no"
    candidates = tuple(Candidate(f"class {n}", n == taken, ok, why) for n, (ok, why) in looked_at.items())
    edges = trip_class_edges(taken)
    figure = w.add(
        f"{role}.trip_class",
        "Trip class",
        "class",
        taken,
        inputs=(multiple, start),
        source=BAND_SOURCE,
        candidates=candidates,
        rule=f"your choice: {override.reason}"
        if own and override
        else "smallest class whose fastest relay lets the start pass",
        note=f"At {multiple.text} × setting from cold it trips between {as_read(edges.fast.trip_time_s(x))} and "
        f"{as_read(edges.slow.trip_time_s(x))} s."
        if x > MUST_TRIP_MULTIPLE
        else "",
        field=f"overrides.{role}" if own else "",
    )
    if certainty == "likely":
        c.find(
            "attention",
            "trip_class_likely",
            f"Class {taken} usually lets a start of {seconds} s pass, but a relay at the fast "
            f"edge of its band trips {_after(edges.fast.trip_time_s(x))}.",
            at,
            device=designation,
        )
    elif certainty == "no":
        c.find(
            "stop",
            "trip_class_too_fast",
            f"Class {taken} is too fast for a start of {seconds} s at {multiple.text} × setting: a typical relay trips "
            f"{_after(edges.mean.trip_time_s(x))}, one at the fast edge {_after(edges.fast.trip_time_s(x))}.",
            at,
            device=designation,
        )
    _stall(c, taken, edges, stalled, plate, dial, designation)
    warm = _warm_restart(c, taken, edges, (steps, setting), dial, role, designation, (multiple, start))
    return ClassChoice(taken, figure, certainty, warm)


def _stall(c: Context, name: str, edges: TripClassEdges, x: float, plate: Plate, dial: Dial, designation: str) -> None:
    stall = c.document.motor.permitted_stall_time_s
    at = "motor.permitted_stall_time_s"
    if stall is None:
        if CLASS_ORDER.index(name) >= CLASS_ORDER.index("20"):
            c.find(
                "attention",
                "stall_time_unknown",
                f"Class {name} trips a stalled motor {within(edges.slow.trip_time_s(x))}; whether this motor withstands that is not known.",
                at,
                device=designation,
            )
        return
    running = min(dial.base.number / dial.ratio / dial.used.number, 1.0)
    cold, warm = edges.slow.trip_time_s(x), edges.slow.trip_time_s(x, edges.slow.warm(running))
    if warm > stall:
        c.find(
            "stop",
            "stall_not_protected",
            f"Stalled while warm, the motor withstands {stall:g} s; class {name} trips {within(warm)}.",
            at,
            device=designation,
        )
    elif cold > stall:
        c.find(
            "attention",
            "stall_cold_not_protected",
            f"Stalled from cold, class {name} trips {within(cold)}; the motor withstands {stall:g} s warm.",
            at,
            device=designation,
        )


def _warm_restart(
    c: Context,
    name: str,
    edges: TripClassEdges,
    start: tuple[list[tuple[float, float]], float],
    dial: Dial,
    role: str,
    designation: str,
    inputs: tuple[Figure, Figure],
) -> Figure | None:
    running = min(dial.base.number / dial.ratio / dial.used.number, 1.0)
    allowed, warm = longest_warm(edges.mean, *start), edges.mean.warm(running)
    wait = 0.0 if allowed >= warm else edges.mean.time_constant_s * log(warm / allowed) if allowed > 0 else inf
    if wait == 0:
        text, value = "at once", 0.0
    elif wait == inf:
        return None
    else:
        text, value = f"{wait / 60:.0f}" if wait >= 600 else f"{wait / 60:.1f}", wait / 60
        c.find(
            "info",
            "warm_restart",
            f"Right after running at full load a restart would trip; a typical relay of class {name} needs about "
            f"{text} min of cooling first (an estimate).",
            "load.start_time_s",
            device=designation,
        )
    return c.working.add(
        f"{role}.warm_restart_min",
        "Cooling time before a hot restart",
        "tw",
        value,
        "min" if value else "",
        text=text,
        inputs=inputs,
        rule="mean edge of the class, after running at full load",
        source="first-order thermal model; an estimate",
    )
