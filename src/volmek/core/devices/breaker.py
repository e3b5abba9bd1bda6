"""Breakers of IEC practice: motor breaker, magnetic breaker, miniature B C D, moulded case."""

from collections.abc import Sequence

from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.context import Context
from volmek.core.devices.device import Check, Objection
from volmek.core.devices.overload import holds, outer
from volmek.core.devices.settings import Settings
from volmek.core.devices.short_circuit import MAGNETIC_HIGH, MAGNETIC_LOW, ROLE, Duty, Kind, edge_objection, own_setting
from volmek.core.physics.profile import thermal_peak
from volmek.core.physics.thermal import ThermalEdge, miniature_edges, moulded_case_edges, trip_class_edges
from volmek.core.results.figures import as_read
from volmek.core.standards.tables import interpolate, row_of

#: Share of its rated current that a miniature breaker carries at an ambient temperature (IEC 60898-1: set at 30 °C).
MINIATURE_AMBIENT_C, MINIATURE_SHARE = (30.0, 40.0, 50.0), (1.0, 0.95, 0.90)
PACKED_SHARE = 0.8

DeviceCheck = Check[ShortCircuitDevice]


def magnetic_setting_a(peak_a: float, low_a: float, high_a: float) -> float:
    """Magnetic setting whose lower tolerance edge just clears the peak inrush, kept inside the device's span.

    Parameters
    ----------
    peak_a : peak inrush of the start [A], > 0
    low_a, high_a : span of the adjustable setting [A]

    Examples
    --------
    >>> magnetic_setting_a(800, 500, 1300), magnetic_setting_a(2000, 500, 1300)
    (1000.0, 1300)

    References
    ----------
    IEC 60947-2, 8.3.3.1.2: an instantaneous trip may act from 80 % of its setting.
    """
    return min(max(peak_a / MAGNETIC_LOW, low_a), high_a)


def setting_a(c: Context, duty: Duty, d: ShortCircuitDevice) -> float:
    """Setting of an adjustable magnetic trip: the user's own, else the least that clears the peak inrush [A].

    Parameters
    ----------
    c : inputs and log of the sizing
    duty : what the device must stand
    d : the breaker; its trip has a range

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> round(example_device("Q1", protection={"device": "moulded_case_breaker"}).settings.instantaneous_trip_a, 1)
    181.4

    References
    ----------
    IEC 60947-2; tolerance of the trip ±20 %.
    """
    own = own_setting(c)
    if own is not None:
        return own
    assert d.instantaneous_min_a is not None and d.instantaneous_max_a is not None
    return magnetic_setting_a(duty.peak_a, d.instantaneous_min_a, d.instantaneous_max_a)


def magnetic_low(c: Context, d: ShortCircuitDevice, setting: float | None) -> float | None:
    """Least current at which a magnetic trip may act at once [A]; None where it has none.

    Parameters
    ----------
    c : inputs and log of the sizing
    d : the breaker
    setting : of its trip [A]; None takes its highest

    Examples
    --------
    >>> magnetic_low(None, None, 200.0)
    160.0

    References
    ----------
    IEC 60947-2: −20 % of the setting.
    """
    value = setting if setting is not None else d.instantaneous_max_a
    return None if value is None else MAGNETIC_LOW * value


def magnetic_high(c: Context, d: ShortCircuitDevice, setting: float | None) -> float | None:
    """Current at which a magnetic trip surely acts at once [A]; None where it has none.

    Parameters
    ----------
    c : inputs and log of the sizing
    d : the breaker
    setting : of its trip [A]; None takes its highest

    Examples
    --------
    >>> magnetic_high(None, None, 200.0)
    240.0

    References
    ----------
    IEC 60947-2: +20 % of the setting.
    """
    value = setting if setting is not None else d.instantaneous_max_a
    return None if value is None else MAGNETIC_HIGH * value


def magnetic_check(duty: Duty) -> DeviceCheck:
    """The lower edge of the magnetic trip at its highest setting clears the peak inrush.

    Parameters
    ----------
    duty : what the device must stand

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [x.reason for x in example().design.devices[0].choice.candidates if not x.fits][-1]
    'RM-100 is adjustable from 72 to 100 A; 14.4 A is needed'
    """

    def check(d: ShortCircuitDevice) -> Objection | None:
        return edge_objection(d, MAGNETIC_LOW * (d.instantaneous_max_a or 0.0), duty)

    return check


def thermal_check(duty: Duty, edge: ThermalEdge, share: float = 1.0) -> DeviceCheck:
    """The thermal part at its fast edge lets the start pass from cold.

    Parameters
    ----------
    duty : what the device must stand
    edge : fast edge of the thermal part
    share : of its rated current that it carries in this panel [-], in (0, 1]

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("Q1", protection={"device": "miniature_breaker_d"}).selected.rated_current_a
    32.0
    """

    steps, seconds = duty.steps, duty.profile.start_s

    def check(d: ShortCircuitDevice) -> Objection | None:
        if thermal_peak(edge, steps, d.rated_current_a * share) < 1:
            return None
        time = edge.trip_time_s(duty.starting_a / (d.rated_current_a * share))
        return Objection(
            "thermal_trip_in_start",
            f"{d.type} may trip after {as_read(time)} s at {as_read(duty.starting_a)} A; the start lasts {as_read(seconds)} s",
            "load.start_time_s",
        )

    return check


def _motor_breaker_checks(c: Context, duty: Duty) -> Sequence[DeviceCheck]:
    dial = duty.dial.used
    devices = c.catalogue.short_circuit_devices["motor_breaker"]

    def covers(d: ShortCircuitDevice) -> Objection | None:
        assert d.dial_min_a is not None and d.dial_max_a is not None
        if holds(d.dial_min_a, d.dial_max_a, dial.number):
            return None
        return Objection(
            "dial_outside_range",
            f"{d.type} is adjustable from {d.dial_min_a:g} to {d.dial_max_a:g} A; {dial.text} A is needed",
            f"overrides.{ROLE}",
        )

    magnetic = magnetic_check(duty)
    breaks_and_clears = [x for x in devices if covers(x) is None and magnetic(x) is None]
    inner = any(not outer(x.dial_min_a or 0, x.dial_max_a or 0, dial.number) for x in breaks_and_clears)

    def not_outer(d: ShortCircuitDevice) -> Objection | None:
        if inner and outer(d.dial_min_a or 0, d.dial_max_a or 0, dial.number):
            return Objection(
                "dial_at_end",
                f"{dial.text} A lies in the outer 5 % of {d.type} ({d.dial_min_a:g} to {d.dial_max_a:g} A)",
                f"overrides.{ROLE}",
                severity="attention",
            )
        return None

    return [covers, magnetic, not_outer]


def _dial_settings(c: Context, duty: Duty, d: ShortCircuitDevice) -> Settings:
    return Settings(dial_a=duty.dial.used.number, trip_class=d.trip_class, instantaneous_trip_a=d.instantaneous_max_a)


def _motor_breaker_slow(d: ShortCircuitDevice, amps: float) -> float:
    return trip_class_edges(d.trip_class or "10").slow.trip_time_s(amps / (d.dial_max_a or d.rated_current_a))


def _say_next_dial(c: Context, duty: Duty, d: ShortCircuitDevice, designation: str) -> None:
    """A dial that covers the current was passed over because of the inrush."""
    smaller = [
        x
        for x in c.catalogue.short_circuit_devices["motor_breaker"]
        if x.rated_current_a < d.rated_current_a
        and holds(x.dial_min_a or 0, x.dial_max_a or 0, duty.dial.used.number)
        and MAGNETIC_LOW * (x.instantaneous_max_a or 0) < duty.peak_a * (1 - 1e-6)
    ]
    if smaller and c.document.override(ROLE) is None:
        x = smaller[-1]
        c.find(
            "info",
            "next_dial_for_inrush",
            f"{x.type} covers {duty.dial.used.text} A too, but may trip at once from {as_read(MAGNETIC_LOW * (x.instantaneous_max_a or 0))} A; "
            f"the peak inrush is {as_read(duty.peak_a)} A, so the next setting range is taken.",
            "assumptions.inrush_peak_factor",
            device=designation,
        )


def miniature_share(c: Context) -> float:
    """Share of its rated current that a miniature breaker carries in this panel.

    Parameters
    ----------
    c : inputs and log of the sizing

    Raises
    ------
    ValueError : beyond 50 °C; no factor is known there.

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> round(miniature_share(example_plate(surroundings={"ambient_c": 40})[0]), 3)
    0.95
    """
    ambient = c.document.surroundings.ambient_c
    share = 1.0 if ambient is None or ambient <= 30 else interpolate(ambient, MINIATURE_AMBIENT_C, MINIATURE_SHARE)
    return share * (PACKED_SHARE if c.document.assumptions.miniature_breakers_packed else 1.0)


def _miniature(curve: str) -> Kind:
    row = row_of("mcb_iec60898", "curve", curve)
    low, high = row["instantaneous_min_multiple"], row["instantaneous_max_multiple"]

    def checks(c: Context, duty: Duty) -> Sequence[DeviceCheck]:
        try:
            share = miniature_share(c)
        except ValueError:
            ambient = c.document.surroundings.ambient_c
            return [
                lambda d: Objection(
                    "miniature_too_warm",
                    f"no factor is known for a miniature breaker at {ambient:g} °C; 50 °C is the limit",
                    "surroundings.ambient_c",
                )
            ]

        def carries(d: ShortCircuitDevice) -> Objection | None:
            if d.rated_current_a * share >= duty.rated.number * (1 - 1e-6):
                return None
            return Objection(
                "miniature_derated",
                f"{d.type} carries {as_read(d.rated_current_a * share)} A here; the motor draws {duty.rated.text} A",
                f"overrides.{ROLE}",
            )

        def instantaneous(d: ShortCircuitDevice) -> Objection | None:
            return edge_objection(d, low * d.rated_current_a, duty)

        return [carries, instantaneous, thermal_check(duty, miniature_edges(10)[0], share)]

    return Kind(
        label=f"Miniature breaker {curve}",
        practice="iec",
        checks=checks,
        settings=lambda c, duty, d: Settings(),
        rule=f"smallest rating whose curve {curve} ({low:g} to {high:g} × In) clears the peak inrush and carries the motor",
        source="IEC 60898-1, Tables 2 and 7",
        lower_edge_a=lambda c, d, s: low * d.rated_current_a,
        upper_edge_a=lambda c, d, s: high * d.rated_current_a,
        fast_time_s=lambda d, amps: miniature_edges(d.rated_current_a)[0].trip_time_s(amps / d.rated_current_a),
        slow_time_s=lambda d, amps: miniature_edges(d.rated_current_a)[1].trip_time_s(amps / d.rated_current_a),
    )


def _moulded_checks(c: Context, duty: Duty) -> Sequence[DeviceCheck]:
    return [magnetic_check(duty), thermal_check(duty, moulded_case_edges()[0])]


KINDS = {
    "motor_breaker": Kind(
        label="Motor breaker",
        practice="iec",
        checks=_motor_breaker_checks,
        settings=_dial_settings,
        protects_overload=True,
        rule="smallest setting range that covers it, whose magnetic trip (13 × top of range, −20 %) clears the peak inrush",
        source="IEC 60947-4-1; IEC 60947-2",
        lower_edge_a=magnetic_low,
        upper_edge_a=magnetic_high,
        slow_time_s=_motor_breaker_slow,
        after=_say_next_dial,
    ),
    "magnetic_breaker": Kind(
        label="Magnetic breaker",
        practice="iec",
        checks=lambda c, duty: [magnetic_check(duty)],
        settings=lambda c, duty, d: Settings(instantaneous_trip_a=d.instantaneous_max_a),
        rule="rated current ≥ In, magnetic trip (13 × In, −20 %) clears the peak inrush; the relay protects against overload",
        source="IEC 60947-2, annex O",
        lower_edge_a=magnetic_low,
        upper_edge_a=magnetic_high,
        slow_time_s=lambda d, amps: float("inf"),
    ),
    "miniature_breaker_b": _miniature("B"),
    "miniature_breaker_c": _miniature("C"),
    "miniature_breaker_d": _miniature("D"),
    "moulded_case_breaker": Kind(
        label="Moulded-case breaker",
        practice="iec",
        checks=_moulded_checks,
        settings=lambda c, duty, d: Settings(dial_a=d.dial_max_a, instantaneous_trip_a=setting_a(c, duty, d)),
        rule="smallest rating ≥ In whose magnetic setting, −20 %, clears the peak inrush and whose thermal part lets the start pass",
        source="IEC 60947-2",
        lower_edge_a=magnetic_low,
        upper_edge_a=magnetic_high,
        fast_time_s=lambda d, amps: moulded_case_edges()[0].trip_time_s(amps / d.rated_current_a),
        slow_time_s=lambda d, amps: moulded_case_edges()[1].trip_time_s(amps / d.rated_current_a),
    ),
}
