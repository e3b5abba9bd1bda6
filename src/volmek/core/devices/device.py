"""Device of a design, and the one way of selecting it: check each candidate, take the first that fits."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from volmek.core.catalogue.device_types import Device as CatalogueDevice
from volmek.core.catalogue.guide import column_heading
from volmek.core.context import Context
from volmek.core.devices.settings import Settings
from volmek.core.document.model import Override
from volmek.core.physics.thermal import TripClassEdges, trip_class_edges
from volmek.core.results.figures import Candidate, Figure
from volmek.core.results.findings import Severity
from volmek.data.loader import finding_rules

D = TypeVar("D", bound=CatalogueDevice)


@dataclass(frozen=True, slots=True)
class Required:
    """Requirements on a device in this starter; None where nothing is required.

    Attributes
    ----------
    current_a, voltage_v, category : current carried at the working voltage, in the utilization category
    rated_power_hp : of a contactor of a NEMA size
    instantaneous_lower_edge_a : current at which it may not yet trip at once
    breaking_capacity_ka : prospective fault current at its place
    dial_a : what the dial has to stand at by the school in use
    star_time_s, dwell_s : of a star-delta timer
    inrush_a, limit_a, poles : of the control breaker: pull-in it rides through, greatest rating that protects, its poles
    short_time_va, continuous_va, primary_v, secondary_v : of the control supply
    wires : of a phase monitor: three- or four-wire
    contacts : as they are ordered: ``1 NO + 2 NC``
    capacitance_uf : of a capacitor
    """

    current_a: float | None = None
    category: str | None = None
    voltage_v: float | None = None
    rated_power_hp: float | None = None
    instantaneous_lower_edge_a: float | None = None
    breaking_capacity_ka: float | None = None
    dial_a: float | None = None
    star_time_s: float | None = None
    dwell_s: float | None = None
    inrush_a: float | None = None
    limit_a: float | None = None
    poles: int | None = None
    short_time_va: float | None = None
    continuous_va: float | None = None
    primary_v: float | None = None
    secondary_v: float | None = None
    wires: str | None = None
    contacts: str | None = None
    capacitance_uf: float | None = None


@dataclass(frozen=True, slots=True)
class Selected:
    """Data of the selected device; ``type`` is None where the catalogue has none that fits, the rest None where it says nothing.

    Attributes
    ----------
    type, kind, frame, size : of the device
    category, ac1_a : utilization category that its current is of, and its current for resistive loads
    rated_current_a, rated_power_hp, service_limit_a, breaking_capacity_ka, poles : ratings
    range_min_a, range_max_a : of its dial
    instantaneous_lower_edge_a : least current at which it may trip at once
    phase_loss_sensitive, base : of an overload relay; the base that it needs beside the contactor
    max_upstream_a, max_upstream, max_fuse_gg_a : greatest protective device in front of it, and of which kind
    coil, inrush_va, sealed_va, supply_va : its coil, what it takes to pull in and to hold, a device's own supply
    auxiliary_no, auxiliary_nc : contacts that it has
    auxiliary_needed_no, auxiliary_needed_nc, auxiliary_block : contacts that the circuit takes, and the block to add
    section_mm2, parallel, conductors, column_c : of the motor cable
    rated_va, short_time_va, primary_v, secondary_v : of the control supply
    semiconductor_fuse, semiconductor_fuse_a : in front of a soft starter
    dwell_s : pause of a star-delta timer
    wires, lost_leaves_pct : of a phase monitor, and the least asymmetry that a lost line leaves at it
    """

    type: str | None = None
    kind: str | None = None
    size: str | None = None
    rated_current_a: float | None = None
    frame: str | None = None
    category: str | None = None
    ac1_a: float | None = None
    rated_power_hp: float | None = None
    service_limit_a: float | None = None
    breaking_capacity_ka: float | None = None
    poles: int | None = None
    range_min_a: float | None = None
    range_max_a: float | None = None
    instantaneous_lower_edge_a: float | None = None
    phase_loss_sensitive: bool | None = None
    base: str | None = None
    max_upstream_a: float | None = None
    max_upstream: str | None = None
    coil: str | None = None
    inrush_va: float | None = None
    sealed_va: float | None = None
    auxiliary_no: int | None = None
    auxiliary_nc: int | None = None
    max_fuse_gg_a: float | None = None
    auxiliary_needed_no: int | None = None
    auxiliary_needed_nc: int | None = None
    auxiliary_block: str | None = None
    section_mm2: float | None = None
    parallel: int | None = None
    column_c: int | None = None
    conductors: int | None = None
    rated_va: float | None = None
    short_time_va: float | None = None
    primary_v: float | None = None
    secondary_v: float | None = None
    semiconductor_fuse: str | None = None
    semiconductor_fuse_a: float | None = None
    supply_va: float | None = None
    dwell_s: float | None = None
    wires: str | None = None
    lost_leaves_pct: float | None = None


@dataclass(frozen=True, slots=True)
class NoneFits:
    """A role for which the catalogues have no device.

    Attributes
    ----------
    nearest : type of the device that comes closest
    reason : what speaks against it
    remedy : what would solve it
    """

    nearest: str
    reason: str
    remedy: str


@dataclass(frozen=True, slots=True)
class Device:
    """One device of the finished design.

    Attributes
    ----------
    designation : letter and number on the drawing
    role, kind : what it does here, what it is
    label : in a fitter's words
    required, selected, settings : what is needed, what the catalogue gave, what to set
    figures : that explain it, the most important first
    choice : the figure that tells what was looked at to pick it
    checks : what it had to pass, so that others can be tried in its place
    none_fits : the catalogues have none; then nothing is selected, and only what follows from the motor is set
    override_reason : why the user chose otherwise; empty when the computed choice stands
    branch : it hangs off the line to the motor instead of lying in it
    dial_line_a : motor current that its dial stands for [A]; None where it has no dial
    overridden : which of its values the user chose (``device_type``, ``dial_a`` …)
    """

    designation: str
    role: str
    kind: str
    label: str
    required: Required
    selected: Selected
    settings: Settings
    figures: tuple[Figure, ...]
    choice: Figure
    override_reason: str = ""
    overridden: tuple[str, ...] = ()
    branch: bool = False
    dial_line_a: float | None = None
    checks: "Sequence[Check[Any]]" = field(default=(), compare=False, repr=False)
    none_fits: NoneFits | None = None

    @property
    def type(self) -> str:
        """Type in the catalogue, empty where none was chosen."""
        return self.selected.type or ""

    @property
    def trip_edges(self) -> TripClassEdges:
        """Times between which its overload protection acts, by the trip class that it is set to.

        Examples
        --------
        >>> from volmek.core.examples import example_device
        >>> round(example_device("F1", protection={"device": "fuse_am"}).trip_edges.slow.trip_time_s(7.2))
        10

        References
        ----------
        IEC 60947-4-1, Table 2.
        """
        return trip_class_edges(str(self.settings.trip_class))


@dataclass(frozen=True, slots=True)
class Objection:
    """Objection to a device: the sentence, and its severity for a user's own choice."""

    code: str
    message: str
    field: str
    severity: Severity = "stop"


Check = Callable[[D], Objection | None]
#: How many candidates before the first that can fit, and after the one taken, are looked at and shown.
NEIGHBOURS = 12


def objections(device: D, checks: Iterable[Check[D]], *, every: bool = False) -> list[Objection]:
    """Objections to a device: the first, or with ``every`` all.

    Parameters
    ----------
    device : a row of the catalogue
    checks : each returns an objection or None
    every : go on after the first

    Examples
    --------
    >>> objections(None, [lambda d: None, lambda d: Objection("a", "too small", "x"), lambda d: Objection("b", "too warm", "x")])[0].message
    'too small'
    """
    found = []
    for check in checks:
        objection = check(device)
        if objection is not None:
            found.append(objection)
            if not every:
                break
    return found


def pick(
    c: Context,
    role: str,
    designation: str,
    devices: Sequence[D],
    checks: Sequence[Check[D]],
    *,
    what: str,
    field: str,
    first: int = 0,
    every: Sequence[D] | None = None,
    remedy: Callable[[], str] | None = None,
    absent: bool = False,
) -> tuple[D, tuple[Candidate, ...], NoneFits | None]:
    """The first device that no check objects to, or the one the user chose, judged by the same checks.

    A device that an unchanged design keeps goes before one that came into the catalogue later.

    Parameters
    ----------
    c : the design so far; a user's choice that is objected to adds findings to it
    role, designation : of the device in the starter
    devices : candidates, the preferred one first
    checks : each returns an objection or None
    what, field : for the message when nothing fits: words for the kind, and the field that asks for it
    first : place of the first candidate that can fit; of those before it only the nearest are looked at
    every : all devices of the kind, where ``devices`` are only some of them
    remedy : tells what would solve it when nothing fits
    absent : the catalogues have no device of this kind at all, and ``devices`` are those of the shipped range, to go on with

    Returns
    -------
    The device, what was looked at, and None. Where nothing fits, the nearest device, to go on with what does not depend on it, and why it does
    not fit; that is said as a stop.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [x.name for x in example().design.devices[1].choice.candidates if x.taken]
    ['RC-17']
    """
    device, looked_at, lacking = _search(
        c, role, designation, devices, checks, what=what, field=field, first=first, every=every
    )
    if absent:
        lacking = NoneFits("", f"{c.catalogue.name} has no {what}", "")
    if lacking:
        words = f"No {what} in the catalogues is suitable for {designation}. Nearest: {lacking.reason}"
        words = f"{lacking.reason} for {designation}" if absent else words
        fix = remedy() if remedy else finding_rules()["no_device_fits"]["fix"]
        c.find("stop", "no_device_fits", words, field, device=designation, fix=fix)
        lacking = replace(lacking, remedy=fix)
    return device, looked_at, lacking


def _search(
    c: Context,
    role: str,
    designation: str,
    devices: Sequence[D],
    checks: Sequence[Check[D]],
    *,
    what: str,
    field: str,
    first: int = 0,
    every: Sequence[D] | None = None,
) -> tuple[D, tuple[Candidate, ...], NoneFits | None]:
    chosen = _usable_choice(c, role, designation, every or devices, what)
    wanted = {chosen} if chosen else c.catalogue.kept
    among = (every or devices) if wanted else ()
    own = next((d for d in among if d.type in wanted and (chosen or not objections(d, checks))), None)
    near = list(devices[max(first - NEIGHBOURS, 0) :])
    if own is not None:
        place = next((i for i, d in enumerate(devices) if d is own), None)
        near = [own, *near] if place is None else list(devices[max(place - NEIGHBOURS, 0) :])
    taken = own
    looked_at: list[Candidate] = []
    behind = 0  # how many were looked at behind the one taken
    for device in near:
        against = objections(device, checks, every=device is own)
        if taken is None and not against:
            taken = device
        if device is own and chosen:
            for o in against:
                c.find(o.severity, o.code, o.message, o.field, device=designation)
        reason = against[0].message if against else "in use" if device is taken else "suitable, but larger than needed"
        if device is own and not against:
            reason = "your choice; suitable" if chosen else "kept with this design; suitable"
        looked_at.append(Candidate(device.type, device is taken, not against, reason))
        if behind or device is taken:
            behind += 1
            if behind > NEIGHBOURS:
                break
    if taken is None:
        closest = near[-1] if first >= len(devices) else min(near, key=lambda d: len(objections(d, checks, every=True)))
        return closest, tuple(looked_at), NoneFits(closest.type, objections(closest, checks)[0].message, "")
    if taken.typical:
        few = ", ".join(column_heading(name) for name in taken.typical[:3])
        rest = f" and {len(taken.typical) - 3} more" if len(taken.typical) > 3 else ""
        words = f"{taken.type} came from a plain list: {few}{rest} are typical values, not the maker's."
        c.find("attention", "device_data_typical", words, f"overrides.{role}", device=designation)
    if taken.type in c.catalogue.gone:
        c.find(
            "attention",
            "device_kept",
            f"{c.catalogue.gone[taken.type]}; this design keeps the one it was made with.",
            f"overrides.{role}",
            device=designation,
        )
    return taken, tuple(looked_at), None


def pick_spare(
    c: Context, role: str, designation: str, devices: Sequence[D], checks: Sequence[Check[D]], *, what: str, field: str
) -> tuple[D | None, tuple[Candidate, ...]]:
    """As ``pick``, for a part that the rest of the design does not need: a finding says that none is suitable.

    Parameters
    ----------
    c, role, designation, devices, checks, what, field : as for ``pick``

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("F2", control={"phase_monitor": "three_wire"}).selected.type is not None
    True
    """
    if not devices:
        c.find("attention", "part_not_in_catalogue", f"{c.catalogue.name} has no {what}", field, device=designation)
        return None, ()
    device, looked_at, lacking = _search(c, role, designation, devices, checks, what=what, field=field)
    if lacking:
        words = f"No {what} in the catalogues is suitable for {designation}. Nearest: {lacking.reason}"
        c.find("attention", "part_not_in_catalogue", words, field, device=designation)
        return None, looked_at
    return device, looked_at


def _usable_choice(c: Context, role: str, designation: str, devices: Sequence[D], what: str) -> str | None:
    """The type that the user chose for a role, if it is a device of this kind."""
    override = c.document.override(role)
    if override is None or override.device_type is None:
        return None
    chosen = override.device_type
    if any(d.type == chosen for d in devices):
        return chosen
    if chosen not in c.catalogue.by_type:
        c.find("stop", "choice_not_in_catalogue", f"{c.catalogue.name} has no {what} of type {chosen!r}; the computed one is used.",
               f"overrides.{role}", device=designation)  # fmt: skip
        return None
    unused(c, role, designation, f"{chosen} is no {what}")
    return None


def unused(c: Context, role: str, designation: str, why: str) -> None:
    """Say that something the user chose has no effect in this starter.

    Parameters
    ----------
    c : inputs and log of the sizing
    role, designation : of the device that the choice was made for; the designation is empty where there is none
    why : in words, without a full stop

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> c, _ = example_plate()
    >>> unused(c, "star_contactor", "", "this starter has no star contactor")
    >>> c.log()[1][-1].message
    'Your choice has no effect: this starter has no star contactor.'
    """
    c.find(
        "attention",
        "override_unused",
        f"Your choice has no effect: {why}.",
        f"overrides.{role}",
        device=designation or None,
    )


def override_marks(override: Override | None) -> tuple[str, tuple[str, ...]]:
    """Reason and list of the values that an override sets.

    Parameters
    ----------
    override : the user's; None where the computed choice stands

    Examples
    --------
    >>> override_marks(Override(role="line_contactor", device_type="RC-17", reason="in the store"))
    ('in the store', ('device_type',))
    """
    if override is None:
        return "", ()
    names = ("device_type", "dial_a", "trip_class", "instantaneous_trip_a")
    return override.reason, tuple(n for n in names if getattr(override, n) is not None)
