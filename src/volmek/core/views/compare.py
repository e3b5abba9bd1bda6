"""Two or three starting methods for one motor side by side."""

from collections.abc import Sequence
from dataclasses import dataclass

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, StarterType, by_method
from volmek.core.methods.choose import Offer, offers
from volmek.core.results.findings import Finding
from volmek.core.sizing import size


@dataclass(frozen=True, slots=True)
class ComparedDevice:
    """One device of a method in a line: what it is, what is taken, what is set."""

    designation: str
    title: str
    rating: str
    setting: str


@dataclass(frozen=True, slots=True)
class Compared:
    """One method of a comparison.

    Attributes
    ----------
    offer : verdict, current and torque at standstill
    devices : from the supply down; empty when the method is impossible
    parts : number of devices
    findings : what would be said, the gravest first
    """

    offer: Offer
    devices: list[ComparedDevice]
    parts: int
    findings: list[Finding]


def compare(document: StarterDocument, catalogue: Catalogue, methods: Sequence[StarterType]) -> list[Compared]:
    """Design the motor with each of the methods.

    Parameters
    ----------
    document : the starter; its own choices of devices are left out
    methods : their keys

    Raises
    ------
    PlateError : the plate or the supply is impossible, contradictory or incomplete, whatever the method.

    Examples
    --------
    >>> from volmek.core.catalogue.catalogue import reference_catalogue
    >>> from volmek.core.document.model import parse
    >>> d = parse({"tag": "A", "motor": {"rated_power_kw": 15, "rated_voltage_delta_v": 400}, "supply": {"line_voltage_v": 400}})
    >>> [x.parts for x in compare(d, reference_catalogue(), ["direct_on_line", "star_delta"])]
    [6, 10]
    """
    offered = {o.key: o for o in offers(document, catalogue)}
    result = []
    for key in methods:
        wanted = by_method(document, key)
        try:
            found = size(wanted, catalogue).design
        except ProblemError:
            result.append(Compared(offered[key], [], 0, []))
            continue
        own = {d.designation for d in found.devices}
        devices = [
            ComparedDevice(i.designation, i.title, i.rating, i.setting) for i in found.line_up if i.designation in own
        ]
        result.append(Compared(offered[key], devices, len(found.devices), found.findings))
    return result
