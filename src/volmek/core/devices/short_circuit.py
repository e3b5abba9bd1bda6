"""The short-circuit device: what every kind must do, and the table of kinds."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.context import Context
from volmek.core.devices.device import Check, Device, Objection, Required, Selected, override_marks, pick
from volmek.core.devices.dial import Dial
from volmek.core.devices.settings import Settings
from volmek.core.document.model import ProtectionDevice
from volmek.core.physics.profile import Profile
from volmek.core.plate.network import Network, check_disconnection
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read

#: Lower and upper edge of a magnetic trip around its setting (IEC 60947-2, 8.3.3.1.2).
MAGNETIC_LOW, MAGNETIC_HIGH = 0.8, 1.2

ROLE = "short_circuit_device"


@dataclass(frozen=True, slots=True)
class Duty:
    """Currents that the device rides through and interrupts."""

    plate: Plate
    dial: Dial
    network: Network | None
    profile: Profile
    rated: Figure
    line_share: float
    start_known: bool = True
    reclosing: Figure | None = None

    @property
    def locked_a(self) -> float:
        """Current with the rotor at rest [A]."""
        return self.plate.locked_rotor.number

    @property
    def steps(self) -> list[tuple[float, float]]:
        """Seconds and line current during the start."""
        return self.profile.through(self.line_share, (1.0,))

    @property
    def starting_a(self) -> float:
        """Line current during the start [A]."""
        return self.line_share * self.locked_a

    @property
    def peak(self) -> Figure:
        """Peak inrush that must not trip an instantaneous trip: at the start, or when delta closes where that is higher."""
        first, second = self.plate.peak, self.reclosing
        return second if second is not None and second.number > first.number else first

    @property
    def peak_a(self) -> float:
        """That peak [A]."""
        return self.peak.number


@dataclass(frozen=True, slots=True)
class Kind:
    """Checks, settings and words of one kind of device.

    Attributes
    ----------
    label : in a fitter's words
    practice : the practice it belongs to
    protects_overload : it replaces the overload relay
    checks : objections beyond rated current and breaking capacity
    settings : what to set on the device picked
    rule, source : how its rating is found
    lower_edge_a : least current at which it may trip at once, None for a fuse
    upper_edge_a : current at which it surely does
    slow_time_s : latest clearing time at a current, without the instantaneous part
    fast_time_s : earliest clearing time at a current, without the instantaneous part
    after : findings about the device picked
    """

    label: str
    practice: str
    checks: Callable[[Context, Duty], Sequence[Check[ShortCircuitDevice]]]
    settings: Callable[[Context, Duty, ShortCircuitDevice], Settings]
    rule: str
    source: str
    lower_edge_a: Callable[[Context, ShortCircuitDevice, float | None], float | None]
    upper_edge_a: Callable[[Context, ShortCircuitDevice, float | None], float | None]
    slow_time_s: Callable[[ShortCircuitDevice, float], float]
    fast_time_s: Callable[[ShortCircuitDevice, float], float] = lambda d, amps: float("inf")
    protects_overload: bool = False
    after: Callable[[Context, Duty, ShortCircuitDevice, str], None] = lambda c, duty, device, designation: None
    picks_rating: Callable[[Context, Duty], tuple[float, Figure]] | None = None

    @property
    def words(self) -> str:
        """The label inside a sentence."""
        return self.label[0].lower() + self.label[1:]


def no_edge(c: Context, device: ShortCircuitDevice, setting: float | None) -> float | None:
    """A fuse has no instantaneous trip.

    Parameters
    ----------
    c, device, setting : as every lower edge is asked

    Examples
    --------
    >>> no_edge(None, None, None) is None
    True
    """
    return None


def rating_check(duty: Duty) -> Check[ShortCircuitDevice]:
    """Rated current at least the motor current.

    Parameters
    ----------
    duty : what the device must stand

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> d = example_device("Q1", protection={"device": "fuse_am"})
    >>> d.selected.rated_current_a >= d.required.current_a
    True
    """

    least_a = duty.rated.number * (1 - 1e-6)

    def check(d: ShortCircuitDevice) -> Objection | None:
        if d.rated_current_a >= least_a:
            return None
        return Objection(
            "rating_too_small",
            f"{d.type} is rated {d.rated_current_a:g} A; the motor draws {duty.rated.text} A",
            f"overrides.{ROLE}",
        )

    return check


def breaking_check(duty: Duty) -> Check[ShortCircuitDevice]:
    """Breaking capacity at the working voltage at least the prospective fault current.

    Parameters
    ----------
    duty : what the device must stand

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> d = example_device("Q1", protection={"device": "fuse_am"})
    >>> d.selected.breaking_capacity_ka >= d.required.breaking_capacity_ka
    True

    References
    ----------
    IEC 60947-2; IEC 60269-1.
    """
    volts = duty.plate.line_voltage_v

    def check(d: ShortCircuitDevice) -> Objection | None:
        able = d.by_voltage("icu", volts, "ka")
        if able is None:
            return Objection(
                "no_breaking_capacity", f"{d.type} has no breaking capacity at {as_read(volts)} V", "protection.device"
            )
        if duty.network and able * 1000 < duty.network.current_a * (1 - 1e-6):
            return Objection(
                "breaking_capacity",
                f"{d.type} breaks {able:g} kA at {as_read(volts)} V; {as_read(duty.network.current_a / 1000)} kA can flow",
                "supply.prospective_current_ka",
            )
        return None

    return check


def edge_objection(d: ShortCircuitDevice, edge: float, duty: Duty) -> Objection | None:
    """The lower edge of the instantaneous trip is below the peak inrush.

    Parameters
    ----------
    d : the device
    edge : least current at which it may trip at once [A]
    duty : what it must stand

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> own = [{"role": "short_circuit_device", "instantaneous_trip_a": 130, "reason": "as found"}]
    >>> [f.severity for f in example(protection={"device": "moulded_case_breaker"}, overrides=own).design.findings if f.code == "instantaneous_below_inrush"]
    ['stop']
    """
    if edge >= duty.peak_a * (1 - 1e-6):
        return None
    return Objection(
        "instantaneous_below_inrush",
        f"{d.type} may trip at once from {as_read(edge)} A; the peak inrush of the start is {as_read(duty.peak_a)} A",
        "assumptions.inrush_peak_factor",
    )


def own_setting(c: Context) -> float | None:
    """The instantaneous setting that the user chose.

    Parameters
    ----------
    c : inputs and log of the sizing

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> own_setting(example_plate()[0]) is None
    True
    """
    override = c.document.override(ROLE)
    return override.instantaneous_trip_a if override else None


def _check_own_setting(c: Context, device: ShortCircuitDevice, designation: str) -> None:
    own, low, high = own_setting(c), device.instantaneous_min_a, device.instantaneous_max_a
    if own is None or low is None or high is None or low * (1 - 1e-9) <= own <= high * (1 + 1e-9):
        return
    c.find(
        "stop",
        "setting_outside_range",
        f"{device.type} is adjustable from {as_read(low)} to {as_read(high)} A; you set {as_read(own)} A.",
        f"overrides.{ROLE}",
        device=designation,
    )


def select(
    c: Context,
    duty: Duty,
    kind_name: ProtectionDevice,
    kind: Kind,
    designation: str,
    remedy: Callable[[], str] | None = None,
) -> Device:
    """Pick, set and judge the device of one kind.

    Parameters
    ----------
    c : inputs and log of the sizing
    duty : what the device must stand
    kind_name, kind : which kind is asked for, and how that kind is checked and set
    designation : of the device
    remedy : tells what would solve it when none fits

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("Q1", protection={"device": "fuse_gg"}).selected.rated_current_a
    40.0
    """
    d, w = c.document, c.working
    own = c.catalogue.short_circuit_devices[kind_name]
    devices = own or reference_catalogue().short_circuit_devices[kind_name]
    devices, first = c.catalogue.from_rating(devices, "rated_current_a", duty.rated.number)
    required_figure = duty.rated
    checks: list[Check[ShortCircuitDevice]] = [rating_check(duty), breaking_check(duty), *kind.checks(c, duty)]
    if kind.picks_rating:
        wanted, required_figure = kind.picks_rating(c, duty)

        def standard(x: ShortCircuitDevice) -> Objection | None:
            if x.rated_current_a <= wanted * (1 + 1e-6):
                return None
            return Objection(
                "above_branch_limit",
                f"{x.type} is larger than the {wanted:g} A that 430.52 allows",
                f"overrides.{ROLE}",
            )

        # The largest that the rule allows rides through the start best.
        allowed = sum(x.rated_current_a <= wanted * (1 + 1e-6) for x in devices)
        devices, first = tuple(reversed(devices)), len(devices) - allowed
        checks = [standard, *checks]
    what = kind.words
    device, candidates, lacking = pick(
        c,
        ROLE,
        designation,
        devices,
        checks,
        what=what,
        field="protection.device",
        first=first,
        remedy=remedy,
        absent=not own,
    )
    if lacking:
        c = c.quiet()
    settings = kind.settings(c, duty, device)
    number = settings.instantaneous_trip_a
    _check_own_setting(c, device, designation)
    edge = kind.lower_edge_a(c, device, number)
    volts = duty.plate.line_voltage_v
    icu = device.by_voltage("icu", volts, "ka")
    rated = w.add(
        f"{ROLE}.rated_current_a",
        f"Rated current of {device.type}",
        "Ir",
        device.rated_current_a,
        "A",
        inputs=(required_figure,),
        rule=kind.rule,
        source=kind.source,
        candidates=candidates,
    )
    figures = [rated]
    if edge is not None:
        low = w.add(
            f"{ROLE}.lower_edge_a",
            "Minimum instantaneous trip",
            "Imin",
            edge,
            "A",
            inputs=(rated, duty.peak),
            rule=f"must not lie below the peak inrush of the start, {duty.peak.text} A",
            source="tolerance of the instantaneous trip: −20 % of a setting, or the curve's lower multiple",
        )
        figures.append(low)
        below = edge_objection(device, edge, duty)
        if below:
            at = f"overrides.{ROLE}" if own_setting(c) is not None else below.field
            c.find(below.severity, below.code, below.message, at, device=designation)
    if icu is not None and duty.network and duty.network.prospective:
        figures.append(
            w.add(
                f"{ROLE}.breaking_capacity_ka",
                f"Breaking capacity of {device.type} at {as_read(volts)} V",
                "Icu",
                icu,
                "kA",
                inputs=(duty.network.prospective,),
                rule="at least the prospective fault current",
                source=c.catalogue.source_of(device.type),
            )
        )
    kind.after(c, duty, device, designation)
    least = check_disconnection(
        c,
        duty.plate,
        duty.network,
        kind.upper_edge_a(c, device, number),
        lambda amps: kind.slow_time_s(device, amps),
        designation,
    )
    if least is not None:
        figures.append(least)
    reason, marks = override_marks(d.override(ROLE))
    required = Required(
        current_a=duty.rated.number,
        instantaneous_lower_edge_a=duty.peak_a if edge is not None else None,
        breaking_capacity_ka=duty.network.current_a / 1000 if duty.network else None,
        voltage_v=volts,
    )
    selected = Selected(
        type=device.type,
        kind=device.kind,
        rated_current_a=device.rated_current_a,
        breaking_capacity_ka=icu,
        range_min_a=device.dial_min_a,
        range_max_a=device.dial_max_a,
        instantaneous_lower_edge_a=edge,
    )
    return Device(
        designation,
        ROLE,
        kind_name,
        kind.label,
        required,
        selected,
        settings,
        tuple(figures),
        rated,
        reason,
        marks,
        checks=checks,
        none_fits=lacking,
    )
