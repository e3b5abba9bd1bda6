"""The arithmetic beside a coordination test: crossover, test current, cable, the device upstream. None of it proves anything."""

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt
from typing import Literal, cast

from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.context import Context
from volmek.core.devices.device import Device
from volmek.core.devices.short_circuit import Kind
from volmek.core.installation.motor_cable import MotorCable
from volmek.core.plate.network import Network
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read
from volmek.data.loader import standard

#: Shares of the crossover current at which device and relay are tested (IEC 60947-4-1, Annex B).
BELOW_CROSSOVER, ABOVE_CROSSOVER = 0.75, 1.25
#: Multiple of Ie(AC-3) that a contactor is proven to break.
BREAKS = 8.0
#: Clearing of an instantaneous trip, at the latest, where the catalogue carries no let-through energy [s].
INSTANT_S = 0.02
#: From this time on the heat of a fault in a cable is calculated from current and time alone [s].
ADIABATIC_S = 0.1
#: k of IEC 60364-5-54 for copper in A·√s/mm².
CABLE_K = {"pvc": 115.0, "xlpe": 143.0}
GRID = 80
State = Literal["fine", "attention", "unknown"]


@dataclass(frozen=True, slots=True)
class CalculatedCheck:
    """One of the checks beside the test: what was looked at, how it came out, in one sentence, and its figure."""

    name: str
    state: State
    message: str
    figure: str


#: A check, and the figure that it came to.
Checked = tuple[CalculatedCheck, Figure | None]


def _checked(name: str, state: State, message: str, figure: Figure | None = None) -> Checked:
    return CalculatedCheck(name, state, message, figure.id if figure else ""), figure


def last_crossing_a(
    device_s: Callable[[float], float], relay_s: Callable[[float], float], low_a: float, high_a: float
) -> float | None:
    """Current above which one curve stays below another.

    Parameters
    ----------
    device_s, relay_s : time of each at a current [s]
    low_a, high_a : where to look [A]

    Returns
    -------
    The current [A]; None when the device is still the slower one at ``high_a``.

    Examples
    --------
    >>> round(last_crossing_a(lambda i: 0.02 if i > 200 else float("inf"), lambda i: 1e5 / i**2, 50, 1000))
    200

    References
    ----------
    Search on log-spaced currents, then halving; IEC 60947-4-1, Annex B.
    """
    above = high_a
    if device_s(above) > relay_s(above):
        return None
    factor = float((high_a / low_a) ** (1 / GRID))
    for _ in range(GRID):
        below = above / factor
        if device_s(below) > relay_s(below):
            for _ in range(30):
                middle = sqrt(below * above)
                below, above = (below, middle) if device_s(middle) <= relay_s(middle) else (middle, above)
            return above
        above = below
    return low_a


def first_touch_a(
    upstream_s: Callable[[float], float], own_s: Callable[[float], float], low_a: float, high_a: float
) -> float | None:
    """The least current at which a device upstream may act as soon as the one behind it.

    Parameters
    ----------
    upstream_s : earliest time of the device upstream [s]
    own_s : latest time of the device behind it [s]
    low_a, high_a : where to look [A]

    Returns
    -------
    The current [A]; None when the curves do not touch.

    Examples
    --------
    >>> round(first_touch_a(lambda i: 1e6 / i**2, lambda i: 0.02 if i > 200 else 5.0, 50, 1e5))
    7071

    References
    ----------
    IEC 60364-5-53, 536.4: the curves compared up to the prospective fault current.
    """
    factor = float((high_a / low_a) ** (1 / GRID))
    below = low_a
    for i in range(GRID + 1):
        above = low_a * factor**i
        if upstream_s(above) <= own_s(above):
            for _ in range(30 if i else 0):
                middle = sqrt(below * above)
                below, above = (below, middle) if upstream_s(middle) <= own_s(middle) else (middle, above)
            return above
        below = above
    return None


def test_current_r_ka(rated_current_a: float) -> float | None:
    """Prospective fault current "r" of the coordination test for a contactor's rated current; None above the table.

    Parameters
    ----------
    rated_current_a : of the contactor [A], > 0

    Examples
    --------
    >>> test_current_r_ka(16), test_current_r_ka(17), test_current_r_ka(2000)
    (1.0, 3.0, None)

    References
    ----------
    IEC 60947-4-1, Table 12.
    """
    for row in standard("coordination_test_current_iec60947_4_1"):
        if rated_current_a <= row["rated_operational_current_up_to_a"]:
            return float(row["prospective_current_r_ka"])
    return None


def calculated_checks(
    c: Context, plate: Plate, network: Network | None, kind: Kind, kinds: dict[str, Kind], front: Device, main: list[Device],
    devices: list[Device],
) -> list[Checked]:  # fmt: skip
    """The checks by calculation beside the test: crossover, test current, cable, selectivity.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    network : None while the prospective fault current is not known
    kind, kinds : how the short-circuit device is judged, and how each kind is
    front, main : short-circuit device and contactors
    devices : all

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [x.name for x in example(protection={"device": "magnetic_breaker"}).design.coordination.checks]
    ['crossover', 'test_current', 'cable']

    References
    ----------
    IEC 60947-4-1, Annex B and Table 12; IEC 60364-4-43, 434.5.2.
    """
    relay = next((d for d in devices if d.role == "overload_relay"), None)
    row = band = None
    if front.none_fits is None:
        row = c.catalogue.by_type[front.type][1]
        assert isinstance(row, ShortCircuitDevice)
        band = band_of(c, kind, row, front)
    checks = []

    def judged(name: str, needs: list[Device | None], check: Callable[[], Checked]) -> None:
        lacks = [d.designation for d in needs if d and d.none_fits]
        unknown = f"Not decided: no device fits as {' and '.join(lacks)}."
        checks.append(_checked(name, "unknown", unknown) if lacks else check())

    if relay and main and not c.nec:
        judged(
            "crossover", [front, main[0], relay], lambda: _crossover(c, plate, cast(Band, band), front, main[0], relay)
        )
    if main and not c.nec:
        judged("test_current", [front, main[0]], lambda: _test_current(c, front, main[0]))
    if network and c.cable:
        least = next((f for f in front.figures if f.id == "least_fault_current_a"), None)
        cable = c.cable
        judged("cable", [front], lambda: check_cable(c, cable, network, cast(Band, band), least))
    if c.document.supply.upstream_device and c.document.supply.upstream_rated_current_a:
        judged(
            "selectivity",
            [front, relay],
            lambda: _selectivity(
                c, plate, network, cast(Band, band), cast(ShortCircuitDevice, row), front, relay, kinds
            ),
        )
    return checks


def band_of(c: Context, kind: Kind, row: ShortCircuitDevice, front: Device) -> "Band":
    """Earliest and latest clearing of the short-circuit device as it is set.

    Parameters
    ----------
    c : inputs and log of the sizing
    kind : how the device is judged
    row : of the catalogue
    front : the device as it is set

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> from volmek.core.methods.front import KINDS
    >>> s = example()
    >>> round(band_of(s.context, KINDS["motor_breaker"], s.context.catalogue.by_type[s.design.devices[0].selected.type][1], s.design.devices[0]).lower_a)
    156
    """
    trip = front.settings.instantaneous_trip_a
    return Band(kind, row, kind.lower_edge_a(c, row, trip), kind.upper_edge_a(c, row, trip))


def upstream_band(c: Context, kinds: dict[str, Kind]) -> "Band | None":
    """The device upstream, None when it is not known well enough or no gates are known for its rating.

    Parameters
    ----------
    c : inputs and log of the sizing
    kinds : how each kind is judged

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> from volmek.core.methods.front import KINDS
    >>> upstream_band(example().context, KINDS) is None
    True
    """
    s = c.document.supply
    if not s.upstream_device or not s.upstream_rated_current_a:
        return None
    kind, trip = kinds[s.upstream_device], s.upstream_instantaneous_trip_a
    if s.upstream_device == "moulded_case_breaker" and trip is None:
        return None
    upstream = ShortCircuitDevice.model_construct(
        type="upstream", kind=s.upstream_device, rated_current_a=s.upstream_rated_current_a, instantaneous_min_a=trip, instantaneous_max_a=trip
    )  # fmt: skip
    try:
        kind.fast_time_s(upstream, 10 * s.upstream_rated_current_a)
    except KeyError:
        return None
    return Band(kind, upstream, kind.lower_edge_a(c, upstream, trip), kind.upper_edge_a(c, upstream, trip))


@dataclass(frozen=True, slots=True)
class Band:
    """Earliest and latest clearing time of a short-circuit device at a current."""

    kind: Kind
    device: ShortCircuitDevice
    lower_a: float | None
    upper_a: float | None

    def fast_s(self, amps: float) -> float:
        if self.lower_a is not None and amps >= self.lower_a:
            return 0.0
        return self.kind.fast_time_s(self.device, amps)

    def mean_s(self, amps: float) -> float:
        """A typical device: the geometric mean of its edges."""
        if self.lower_a and self.upper_a and amps >= sqrt(self.lower_a * self.upper_a):
            return 0.0
        return sqrt(self.kind.fast_time_s(self.device, amps) * self.kind.slow_time_s(self.device, amps))

    def thermal_s(self, amps: float) -> float:
        """Latest clearing by the slow part alone."""
        return self.kind.slow_time_s(self.device, amps)

    def slow_s(self, amps: float) -> float:
        time = self.thermal_s(amps)
        if self.upper_a is not None and amps >= self.upper_a:
            time = min(time, INSTANT_S)
        energy = self.device.let_through_a2s
        return min(time, energy / amps**2) if energy and time < ADIABATIC_S else time


def _crossover(c: Context, plate: Plate, band: Band, front: Device, contactor: Device, relay: Device) -> Checked:
    """Annex B: relay and device change over once, and below what the contactor breaks."""
    w = c.working
    dial_line_a = relay.dial_line_a
    assert dial_line_a
    mean = relay.trip_edges.mean

    def relay_s(amps: float) -> float:
        return mean.trip_time_s(amps / dial_line_a)

    high = 60 * dial_line_a
    crossing = last_crossing_a(band.mean_s, relay_s, 1.2 * dial_line_a, high)
    if crossing is None:
        return _checked(
            "crossover", "unknown", "The curves of relay and device do not cross up to 60 times the setting."
        )
    ico = w.add(
        "crossover_current_a", f"Current above which {front.designation} acts before {relay.designation}", "Ico", crossing, "A",
        inputs=(relay.figures[0], front.choice),
        rule="where the mean curves of relay and device cross for the last time", source="IEC 60947-4-1, Annex B",
    )  # fmt: skip
    share = (contactor.required.current_a or 0) / plate.sizing.number
    able = BREAKS * rated_a(contactor) / share
    words = f"Relay and short-circuit device cross over at {ico.text} A"
    for part, at, first, second in (
        (BELOW_CROSSOVER, "below", relay_s, band.mean_s),
        (ABOVE_CROSSOVER, "above", band.mean_s, relay_s),
    ):
        amps = part * ico.number
        if first(amps) >= second(amps):
            return _checked(
                "crossover", "attention",
                f"{words}, but {at} it, at {as_read(amps)} A, they cross again: their curves are too close to each other.", ico,
            )  # fmt: skip
    if ico.number > able * (1 + 1e-6):
        return _checked(
            "crossover", "attention",
            f"{words}; up to there the relay makes {contactor.designation} open, which is proven to break {as_read(able)} A (8 times Ie).",
            ico,
        )  # fmt: skip
    return _checked(
        "crossover", "fine", f"{words}, below the {as_read(able)} A that {contactor.designation} breaks.", ico
    )


def _test_current(c: Context, front: Device, contactor: Device) -> Checked:
    rated = rated_a(contactor)
    r_ka = test_current_r_ka(rated)
    if r_ka is None:
        return _checked("test_current", "unknown", f"The table of test currents ends below {as_read(rated)} A.")
    r = c.working.add(
        "test_current_r_ka", f"Test current r of {contactor.designation}", "r", r_ka, "kA",
        inputs=(contactor.choice,),
        rule="by the contactor's rated current", source="IEC 60947-4-1, Table 12",
    )  # fmt: skip
    icu = front.selected.breaking_capacity_ka
    if icu is not None and icu < r_ka:
        return _checked(
            "test_current",
            "attention",
            f"{front.designation} breaks {icu:g} kA; the set is tested at r = {r.text} kA first.",
            r,
        )
    return _checked(
        "test_current",
        "fine",
        f"The set is tested at r = {r.text} kA and at its Iq; {front.designation} breaks more than r.",
        r,
    )


def worst_fault_a2s(cable: MotorCable, network: Network, band: Band, least_a: float | None) -> tuple[float, str]:
    """Greatest heat of a fault in one conductor of the motor cable until the device has cleared it, and the fault in words.

    Parameters
    ----------
    cable : of several in parallel one alone carries a fault at its beginning
    network, band : for the fault at the board, and the clearing times of the device
    least_a : fault current at the motor [A]; None while the length is not known

    Returns
    -------
    0 and no words where the device is faster than 0.1 s and its let-through energy is not known.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> from volmek.core.methods.front import KINDS
    >>> s = example(supply={"prospective_current_ka": 10})
    >>> front = s.design.devices[0]
    >>> band = band_of(s.context, KINDS["motor_breaker"], s.context.catalogue.by_type[front.type][1], front)
    >>> worst_fault_a2s(s.context.cable, s.built.network, band, None)[0]
    55000.0

    References
    ----------
    IEC 60364-4-43, 434.5.2.
    """
    energy = band.device.let_through_a2s
    places = [(network.current_a, 1.0, "at the board")]
    if least_a is not None:
        places.append((least_a, 1 / cable.parallel, "at the motor"))
        if band.upper_a and least_a < band.upper_a < network.current_a:
            places.append((band.upper_a * (1 - 1e-6), 1.0, "on the way, too small for the instantaneous trip"))
    worst, said = 0.0, ""
    for amps, share, where in places:
        time = band.slow_s(amps)
        if time < ADIABATIC_S:
            if not energy:
                continue
            heat = share**2 * min(energy, amps**2 * ADIABATIC_S)
        else:
            heat = (share * amps) ** 2 * time
        if heat > worst:
            worst, said = heat, f"a fault {where}, {as_read(amps)} A"
    return worst, said


def stands_a2s(section_mm2: float, insulation: str) -> float:
    """Let-through energy that a conductor withstands [A²s].

    Parameters
    ----------
    section_mm2 : of copper
    insulation : ``pvc`` or ``xlpe``

    Examples
    --------
    >>> stands_a2s(1.5, "pvc")
    29756.25

    References
    ----------
    IEC 60364-4-43, 434.5.2: k²·S².
    """
    return (CABLE_K[insulation] * section_mm2) ** 2


def check_cable(c: Context, cable: MotorCable, network: Network, band: Band, least: Figure | None) -> Checked:
    """The motor cable withstands a fault until the device has cleared it, at both ends and just below the instantaneous trip.

    Parameters
    ----------
    c : inputs and log of the sizing
    cable : of several in parallel one alone carries a fault at its beginning
    network : for the fault at the board
    band : earliest and latest clearing of the device
    least : fault current at the motor; None while the length is not known

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> from volmek.core.methods.front import KINDS
    >>> s = example(supply={"prospective_current_ka": 10})
    >>> front = s.design.devices[0]
    >>> band = band_of(s.context, KINDS["motor_breaker"], s.context.catalogue.by_type[front.type][1], front)
    >>> check_cable(s.context, s.context.cable, s.built.network, band, None)[0].state
    'fine'

    References
    ----------
    IEC 60364-4-43, 434.5.2.
    """
    w, s, row = c.working, c.document.supply, band.device
    section = cable.section_mm2
    k = CABLE_K[s.cable_insulation or "pvc"]
    stands = w.add(
        "cable_stands_a2s", "Let-through energy that the motor cable withstands", "k²S²", stands_a2s(section, s.cable_insulation or "pvc"), "A²s",
        inputs=(c.section_figure(),), formula=f"({k:g}·A)²",
        rule=f"k = {k:g} for copper in {(s.cable_insulation or 'pvc').upper()}", source="IEC 60364-4-43, 434.5.2; 60364-5-54",
    )  # fmt: skip
    worst, said = worst_fault_a2s(cable, network, band, least.number if least else None)
    if not said:
        return _checked(
            "cable", "unknown",
            f"{row.type} clears faults in under 0.1 s and the catalogue has no let-through energy for it: its data sheet must show less than "
            f"{stands.text} A²s.", stands,
        )  # fmt: skip
    if worst > stands.number:
        heat_said = (
            "energy without limit, since it does not clear the fault"
            if worst == float("inf")
            else f"{as_read(worst)} A²s"
        )
        c.find(
            "stop",
            "cable_short_circuit",
            f"{said[0].upper()}{said[1:]}, puts {heat_said} into the motor cable; {section:g} mm² withstands {stands.text} A²s.",
            "supply.cable_section_mm2",
            device="W1",
        )
        return _checked("cable", "attention", f"{said[0].upper()}{said[1:]}: {heat_said} against the {stands.text} A²s that {section:g} mm² withstands.", stands)  # fmt: skip
    return _checked(
        "cable",
        "fine",
        f"{section:g} mm² withstands {stands.text} A²s; {row.type} lets {as_read(worst)} A²s through ({said}).",
        stands,
    )


def _selectivity(
    c: Context, plate: Plate, network: Network | None, band: Band, row: ShortCircuitDevice, front: Device, relay: Device | None,
    kinds: dict[str, Kind],
) -> Checked:  # fmt: skip  # fmt: skip
    """Up to which current only this starter's own device acts, and the one in front of the board stays on."""
    w, s = c.working, c.document.supply
    assert s.upstream_device
    assert s.upstream_rated_current_a
    kind = kinds[s.upstream_device]
    if s.upstream_device == "moulded_case_breaker" and s.upstream_instantaneous_trip_a is None:
        return _checked(
            "selectivity", "unknown", "Enter the magnetic trip of the breaker upstream to compare the curves."
        )
    other = upstream_band(c, kinds)
    if other is None:
        what = f"{kind.label[0].lower()}{kind.label[1:]}"
        return _checked(
            "selectivity", "unknown", f"No gates are known for a {what} of {s.upstream_rated_current_a:g} A."
        )
    dial_line_a = relay.dial_line_a or 0.0 if relay else 0.0
    edge = relay.trip_edges.slow if relay else None

    def own_s(amps: float) -> float:
        clears = band.slow_s(amps)
        return min(clears, edge.trip_time_s(amps / dial_line_a)) if edge else clears

    high = network.current_a if network else 100 * row.rated_current_a
    touch = first_touch_a(other.fast_s, own_s, 1.5 * plate.permitted.number, high)
    rated: Figure | None = w.typed(
        "supply.upstream_rated_current_a", "Device upstream", "Iup", s.upstream_rated_current_a, "A"
    )
    limit = w.add(
        "selectivity_limit_a", "Selectivity limit with the device upstream", "Is", touch if touch is not None else high, "A",
        inputs=(rated, front.choice),
        rule="the earliest curve of the device upstream stays above the latest of this one", source="IEC 60364-5-53, 536.4; IEC 60947-2, Annex A",
        note="The makers' selectivity tables take precedence.",
    )  # fmt: skip
    what = f"{kind.label[0].lower()}{kind.label[1:]} of {s.upstream_rated_current_a:g} A"
    if touch is None:
        known = (
            "up to the prospective fault current" if network else f"up to {limit.text} A, the highest current checked"
        )
        return _checked(
            "selectivity",
            "fine",
            f"The curves of {front.designation} and the {what} upstream do not touch {known}.",
            limit,
        )
    return _checked(
        "selectivity",
        "attention",
        f"From {limit.text} A on the {what} upstream may trip with {front.designation} and switch the whole board off.",
        limit,
    )


def rated_a(d: Device) -> float:
    """Rated current of a device that the catalogue has [A].

    Parameters
    ----------
    d : a device that the catalogue has

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> rated_a(example_device("K1")) >= 14.4
    True
    """
    assert d.selected.rated_current_a is not None
    return d.selected.rated_current_a
