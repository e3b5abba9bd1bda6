"""Coordination of breaker or fuse, contactor and relay: proven by test of the combination, arithmetic beside it."""

from dataclasses import dataclass
from math import log
from typing import Any, cast

from volmek.core.catalogue.device_types import TestedCombination
from volmek.core.context import Context
from volmek.core.coordination.checks import CalculatedCheck, calculated_checks, rated_a
from volmek.core.devices.device import Device, objections
from volmek.core.devices.short_circuit import ROLE, Kind
from volmek.core.document.model import ProtectionDevice
from volmek.core.plate.network import Network
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import as_read

SHOWN = 3
#: A set whose contactors are rated higher than so many times those picked is not near.
NEAR = 2.5


@dataclass(frozen=True, slots=True)
class Swap:
    """One device that a tested set has in the place of the one picked."""

    role: str
    designation: str
    instead_of: str
    type: str


@dataclass(frozen=True, slots=True)
class TestedSet:
    """A tested combination that fits this motor, and what taking it changes."""

    __test__ = False  # not a test case

    name: str
    coordination_type: str
    iq_ka: float
    voltage_v: float
    report: str
    swaps: tuple[Swap, ...]


@dataclass(frozen=True, slots=True)
class Coordination:
    """Coordination of a starter: tested or not, nearest tested sets, calculated checks.

    Attributes
    ----------
    proven : the set picked is a tested combination, for this voltage and prospective fault current
    coordination_type, iq_ka, combination, report : of that test; empty when not proven
    sentence : the state in words
    nearest : tested sets that fit, the one with the fewest changes first
    checks : arithmetic beside the test; none of it proves anything
    """

    proven: bool
    coordination_type: str
    iq_ka: float | None
    combination: str
    report: str
    sentence: str
    nearest: tuple[TestedSet, ...]
    checks: tuple[CalculatedCheck, ...]


def coordinate(
    c: Context, plate: Plate, network: Network | None, kind: Kind, kinds: dict[str, Kind], devices: list[Device]
) -> Coordination:
    """Look the set up among the tested combinations, find the nearest ones, and do the arithmetic beside it.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    network : None while the prospective fault current is not known
    kind, kinds : how the short-circuit device is judged, and how each kind is
    devices : of the starter

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> example().design.coordination.proven
    True

    References
    ----------
    IEC 60947-4-1, 8.2.5.1.
    """
    volts = plate.supply.line_voltage_v or plate.line_voltage_v
    prospective_ka = network.current_a / 1000 if network else None
    front = next(d for d in devices if d.role == ROLE)
    main = [d for d in devices if d.kind == "contactor" and not d.role.startswith("rotor_contactor")]
    relays = list(dict.fromkeys(d.type for d in devices if d.kind == "overload_relay"))
    lacks = list(dict.fromkeys(d.designation for d in devices if d.none_fits))
    wish = {"type_1": "1", "type_2": "2"}.get(c.document.protection.coordination or "", "")
    table = c.catalogue.combinations_by_front
    own = (frozenset(k.type for k in main), tuple(relays))
    same = [
        t for t in table.get(front.type, []) if not lacks and _parts(t) == own and volts <= t.voltage_v * (1 + 1e-6)
    ]
    enough = [t for t in same if prospective_ka is None or t.iq_ka >= prospective_ka * (1 - 1e-6)]
    proof = max(enough, key=lambda t: (t.coordination_type, t.iq_ka), default=None)
    proven = proof is not None
    if proof:
        up_to = f"up to {proof.iq_ka:g} kA at {proof.voltage_v:g} V"
        sentence = f"Tested, type {proof.coordination_type}, {up_to} ({proof.type})."
    elif same:
        best = max(same, key=lambda t: t.iq_ka)
        sentence = f"Not proven here: {best.type} was tested up to {best.iq_ka:g} kA, and {as_read(prospective_ka or 0)} kA can flow."
    elif lacks:
        sentence = f"Not decided: no device fits as {' and '.join(lacks)}."
    elif not main:
        sentence = "A manual starter is one device; its own data sheet gives its coordination."
    else:
        sentence = "Not proven: this set is no tested combination of the catalogue. Only a test proves coordination, no calculation."
    satisfied = proof is not None and (not wish or proof.coordination_type >= wish)
    nearest: tuple[TestedSet, ...] = ()
    if main and not satisfied and len(relays) <= 1 and not lacks:
        nearest = _nearest(
            c, front, main, next((d for d in devices if d.kind == "overload_relay"), None), wish, volts, prospective_ka
        )
    if wish and not satisfied and not lacks:
        c.find(
            "attention",
            "coordination_not_proven",
            f"Coordination type {wish} is asked for; this set is {'tested for type ' + proof.coordination_type if proof else 'not proven'}."
            + (
                f" {nearest[0].name} is the nearest tested set."
                if nearest
                else " The catalogue has no tested set that fits."
            ),
            "protection.coordination",
            device=front.designation,
        )
    checks = calculated_checks(c, plate, network, kind, kinds, front, main, devices)
    c.working.add(
        "coordination", "Coordination of the set", "", f"type {proof.coordination_type}, {proof.iq_ka:g} kA" if proof else "not proven",
        rule="the combination itself was tested; calculation is no proof", source=f"IEC 60947-4-1, 8.2.5.1; {proof.report or c.catalogue.source_of(proof.type)}"
        if proof else "IEC 60947-4-1, 8.2.5.1", field="protection.coordination", note=sentence,
        inputs=tuple(figure for _, figure in checks),
    )  # fmt: skip
    return Coordination(
        proven,
        proof.coordination_type if proof else "",
        proof.iq_ka if proof else None,
        proof.type if proof else "",
        (proof.report or "") if proof else "",
        sentence,
        nearest,
        tuple(check for check, _ in checks),
    )


def _parts(t: TestedCombination) -> tuple[frozenset[str], tuple[str, ...]]:
    return frozenset(t.contactors), (t.overload_relay,) if t.overload_relay else ()


def _nearest(
    c: Context,
    front: Device,
    main: list[Device],
    relay: Device | None,
    wish: str,
    volts: float,
    prospective_ka: float | None,
) -> tuple[TestedSet, ...]:
    """Tested sets with the same kind of device in front, all of whose parts pass the checks of this design."""
    table = c.catalogue.combinations_by_front
    found: list[tuple[tuple[Any, ...], TestedSet]] = []
    fronts = 0
    kind = cast(ProtectionDevice, front.kind)
    for device in c.catalogue.short_circuit_devices[kind]:
        combinations = table.get(device.type)
        if not combinations or objections(device, front.checks):
            continue
        fronts += 1
        for t in combinations:
            if volts > t.voltage_v * (1 + 1e-6) or (prospective_ka or 0) > t.iq_ka * (1 + 1e-6):
                continue
            if t.coordination_type < (wish or "1") or bool(t.overload_relay) != bool(relay):
                continue
            swaps = _swaps(c, front, main, relay, t)
            if swaps is None:
                continue
            size = abs(log(device.rated_current_a / rated_a(front)))
            rank = (len(swaps), t.coordination_type != "2", size, t.type)
            found.append((rank, TestedSet(t.type, t.coordination_type, t.iq_ka, t.voltage_v, t.report or "", swaps)))
        if fronts >= 12:  # larger ones are ever further away
            break
    return tuple(s for _, s in sorted(found, key=lambda x: x[0])[:SHOWN])


def _swaps(
    c: Context, front: Device, main: list[Device], relay: Device | None, t: TestedCombination
) -> tuple[Swap, ...] | None:
    """Changes that lead to a tested combination; None when one of its parts is not suitable here."""
    by_type = c.catalogue.by_type
    wanted = [(front, t.short_circuit_device)]
    if relay:
        if t.overload_relay not in by_type or objections(by_type[t.overload_relay][1], relay.checks):
            return None
        wanted.append((relay, t.overload_relay))
    if any(k not in by_type for k in t.contactors):
        return None
    # The contactor with the greater duty takes the larger type.
    types = sorted(t.contactors, key=lambda k: getattr(by_type[k][1], "ac3_400_a", 0.0))
    used = set()
    for k in main:
        fitting = next((x for x in types if not objections(by_type[x][1], k.checks)), None)
        if fitting is None or getattr(by_type[fitting][1], "ac3_400_a", 0.0) > NEAR * rated_a(k):
            return None
        used.add(fitting)
        wanted.append((k, fitting))
    if used != set(types) or _overfused(c, wanted):
        return None
    return tuple(Swap(d.role, d.designation, d.type, type) for d, type in wanted if d.selected.type != type)


def _overfused(c: Context, wanted: list[tuple[Device, str]]) -> bool:
    """The fuse of a tested set is larger than contactor or relay is marked for: the marking prevails.

    The star contactor lies behind the windings, which hold a fault's current down.
    """
    rows = {d.role: c.catalogue.by_type[type][1] for d, type in wanted if d.role != "star_contactor"}
    front = rows.pop(ROLE)
    if getattr(front, "kind", "") not in ("fuse_gg", "fuse_am"):
        return False
    limits = [getattr(row, "max_fuse_gg_a", None) for row in rows.values()]
    return any(limit is not None and getattr(front, "rated_current_a", 0) > limit for limit in limits)
