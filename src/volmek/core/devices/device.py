"""What every device of a design has, and the one way of picking it: check each candidate, take the first that fits."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import TypeVar

from volmek.core.catalogue.device_types import Device as CatalogueDevice
from volmek.core.context import Context
from volmek.core.document.errors import NoDeviceError
from volmek.core.document.model import Override
from volmek.core.results.figures import Candidate
from volmek.core.results.findings import Severity

Fact = float | int | str | bool | None
D = TypeVar("D", bound=CatalogueDevice)


@dataclass(frozen=True, slots=True)
class Device:
    """One device of the finished design.

    Attributes
    ----------
    designation : letter and number on the drawing
    role, kind : what it does here, what it is
    label : in a fitter's words
    required, selected, settings : what is needed, what the catalogue gave, what to set
    figures : ids of the figures that explain it, the most important first
    choice : id of the figure that tells what was looked at to pick it
    override_reason : why the user chose otherwise; empty when the computed choice stands
    branch : it hangs off the line to the motor instead of lying in it
    overridden : which of its values the user chose (``device_type``, ``dial_a`` …)
    """

    designation: str
    role: str
    kind: str
    label: str
    required: dict[str, Fact]
    selected: dict[str, Fact]
    settings: dict[str, Fact] = field(default_factory=dict)
    figures: tuple[str, ...] = ()
    choice: str = ""
    override_reason: str = ""
    overridden: tuple[str, ...] = ()
    branch: bool = False


@dataclass(frozen=True, slots=True)
class Objection:
    """Why a device does not do: the sentence, and how a user's own choice of it is judged."""

    code: str
    message: str
    field: str
    severity: Severity = "stop"


Check = Callable[[D], Objection | None]
#: How many candidates before the first that can fit, and after the one taken, are looked at and shown.
NEIGHBOURS = 12


def objections(device: D, checks: Iterable[Check[D]], *, every: bool = False) -> list[Objection]:
    """What speaks against a device: the first thing, or with ``every`` all of it."""
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
) -> tuple[D, tuple[Candidate, ...]]:
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

    Raises
    ------
    NoDeviceError : nothing in the catalogue fits, or the user's choice is not in it.
    """
    c.checks[role] = checks
    chosen = _usable_choice(c, role, designation, every or devices, what)
    wanted = {chosen} if chosen else c.catalogue.kept
    own = next((d for d in every or devices if d.type in wanted and (chosen or not objections(d, checks))), None)
    near = list(devices[max(first - NEIGHBOURS, 0) :])
    if own is not None:
        place = next((i for i, d in enumerate(devices) if d is own), None)
        near = [own, *near] if place is None else list(devices[max(place - NEIGHBOURS, 0) :])
    taken = own
    looked_at: list[Candidate] = []
    nearest: tuple[D, Objection] | None = None
    behind = 0  # how many were looked at behind the one taken
    for device in near:
        against = objections(device, checks, every=device is own)
        if taken is None and not against:
            taken = device
        if device is own and chosen:
            for o in against:
                c.find(o.severity, o.code, o.message, o.field, device=designation)
        if against:
            nearest = (device, against[0])
        reason = against[0].message if against else "in use" if device is taken else "fits, but is larger than needed"
        if device is own and not against:
            reason = "your choice; it fits" if chosen else "kept with this design; it fits"
        looked_at.append(Candidate(device.type, device is taken, not against, reason))
        if behind or device is taken:
            behind += 1
            if behind > NEIGHBOURS:
                break
    if taken is None:
        why = f"; the last one, {nearest[0].type}: {nearest[1].message}" if nearest else ""
        raise NoDeviceError.at(field, f"{c.catalogue.name} has no {what} that fits{why}")
    if taken.type in c.catalogue.gone:
        c.find(
            "attention",
            "device_kept",
            f"{c.catalogue.gone[taken.type]}; this design keeps the one it was made with.",
            f"overrides.{role}",
            device=designation,
        )
    return taken, tuple(looked_at)


def pick_spare(
    c: Context, role: str, designation: str, devices: Sequence[D], checks: Sequence[Check[D]], *, what: str, field: str
) -> tuple[D | None, tuple[Candidate, ...]]:
    """As ``pick``, for a part without which the rest of the design still stands: a finding says that none fits.

    Raises
    ------
    NoDeviceError : the user's choice is not in the catalogue.
    """
    override = c.document.override(role)
    try:
        return pick(c, role, designation, devices, checks, what=what, field=field)
    except NoDeviceError as error:
        if override and override.device_type:
            raise
        c.find("attention", "part_not_in_catalogue", error.problems[0].message, field, device=designation)
        looked_at = [Candidate(d.type, False, False, objections(d, checks)[0].message) for d in devices[-NEIGHBOURS:]]
        return None, tuple(looked_at)


def _usable_choice(c: Context, role: str, designation: str, devices: Sequence[D], what: str) -> str | None:
    """The type that the user chose for a role, if it is a device of this kind.

    Raises
    ------
    NoDeviceError : the catalogue has no such type at all.
    """
    override = c.document.override(role)
    if override is None or override.device_type is None:
        return None
    chosen = override.device_type
    if any(d.type == chosen for d in devices):
        return chosen
    if chosen not in c.catalogue.by_type:
        index = c.document.overrides.index(override)
        raise NoDeviceError.at(f"overrides.{index}.device_type", f"{c.catalogue.name} has no {what} of type {chosen!r}")
    unused(c, role, designation, f"{chosen} is no {what}")
    return None


def unused(c: Context, role: str, designation: str, why: str) -> None:
    """Say that something the user chose has no effect in this starter."""
    c.find(
        "attention",
        "override_unused",
        f"Your choice has no effect: {why}.",
        f"overrides.{role}",
        device=designation or None,
    )


def override_marks(override: Override | None) -> tuple[str, tuple[str, ...]]:
    """Reason and list of the values that an override sets."""
    if override is None:
        return "", ()
    names = ("device_type", "dial_a", "trip_class", "instantaneous_trip_a")
    return override.reason, tuple(n for n in names if getattr(override, n) is not None)
