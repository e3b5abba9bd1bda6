"""Every starting method with a verdict and one sentence why, for one plate, supply limit and load."""

from dataclasses import dataclass
from typing import Literal

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.context import Context
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, StarterType, by_method, method_of
from volmek.core.methods import METHODS
from volmek.core.methods.build import Built, build_starter
from volmek.core.methods.method import Method
from volmek.core.methods.wrong_choices import without_wrong_choices
from volmek.core.plate.network import Network, read_network
from volmek.core.plate.plate import Plate
from volmek.core.plate.reading import read_plate
from volmek.core.results.drawing import Drawing, line, rect, text
from volmek.core.results.figures import as_read, as_sentence
from volmek.core.results.findings import Finding
from volmek.core.standards.tables import typical_motor_value
from volmek.core.start.dip import StartDip, start_dip

Fit = Literal["fits", "care", "no"]
#: Starting torque this much above what breaks the load away is comfortable.
TORQUE_MARGIN = 1.15


@dataclass(frozen=True, slots=True)
class Offer:
    """One method as it is offered.

    Attributes
    ----------
    key, label, cost, leads, contactors : what it is
    fit, reason : the verdict and one sentence
    line_current_a, line_current_share, torque_share : at standstill; share of direct on line
    dip_pct : supply dip at the start, None when the supply is not known
    chosen : it is the one of the document
    bars : current and torque against direct on line, as a drawing
    """

    key: StarterType
    label: str
    cost: str
    leads: int
    contactors: int
    fit: Fit
    reason: str
    line_current_a: float | None
    line_current_share: float
    torque_share: float
    dip_pct: float | None
    chosen: bool
    offered: bool
    bars: Drawing


def offers(document: StarterDocument, catalogue: Catalogue) -> list[Offer]:
    """All methods, in the order of cost and simplicity.

    Raises
    ------
    PlateError : the plate or the supply is impossible, contradictory or incomplete, whatever the method.
    """
    chosen, document = method_of(document), without_wrong_choices(document)[0]
    c = Context(document, catalogue)
    plate = read_plate(c)
    network = read_network(c, plate)
    return [_offer(document, catalogue, plate, network, key, method, chosen) for key, method in METHODS.items()]


def _offer(
    document: StarterDocument,
    catalogue: Catalogue,
    plate: Plate,
    network: Network | None,
    key: StarterType,
    method: Method,
    chosen: StarterType,
) -> Offer:
    wanted = by_method(document, key)
    ratio = plate.locked_rotor.number / plate.design.number
    refused = method.refuses(wanted)
    current_share = method.line_current_share(wanted, ratio)
    torque_share = method.torque_share(wanted, ratio)
    current = plate.locked_rotor.number * current_share
    fit: Fit
    if refused:
        fit, reason, dip = "no", refused[0].message, None
    else:
        fit, reason, dip = _judged(wanted, catalogue, plate, network, method, current, torque_share)
    return Offer(
        key, method.label, method.cost, method.leads, len(method.layout(wanted).contactors), fit, as_sentence(reason),
        None if refused else current, current_share, torque_share, dip.board_pct if dip else None, key == chosen,
        all(p.missing for p in refused),
        _bars(current_share, torque_share),
    )  # fmt: skip


def _judged(
    document: StarterDocument,
    catalogue: Catalogue,
    plate: Plate,
    network: Network | None,
    method: Method,
    current: float,
    torque_share: float,
) -> tuple[Fit, str, StartDip | None]:
    try:
        c, _, built = build_starter(document, catalogue, method)
    except ProblemError as error:
        return (
            "no",
            error.problems[0].message,
            start_dip(plate, network, method.layout(document).stages(plate)[0], current),
        )
    return *_verdict(document, plate, method, c.log()[1], built, torque_share), built.dip


def _verdict(
    document: StarterDocument, plate: Plate, method: Method, found: list[Finding], built: Built, torque_share: float
) -> tuple[Fit, str]:
    beyond = next(
        (f for f in found if f.code in ("no_device_fits", "start_current_exceeded", "supply_dip_exceeded")), None
    )
    if beyond:
        return "no", beyond.message
    needed, torque = _standstill_torque(document), torque_share * _locked_torque(document, plate)
    if needed is not None and torque <= needed:
        return (
            "no",
            f"its starting torque, {100 * torque:.0f} % of rated, does not break away a load of {100 * needed:.0f} %",
        )
    hangs = next((f for f in found if f.code in ("start_stalls", "first_stage_hangs")), None)
    if hangs and hangs.severity == "stop":
        return "no", hangs.message
    if needed is not None and torque < TORQUE_MARGIN * needed:
        return (
            "care",
            f"its starting torque, {100 * torque:.0f} % of rated, is hardly above the load's {100 * needed:.0f} %",
        )
    stop = next((f for f in found if f.severity == "stop"), None)
    if stop:
        return "care", stop.message
    if method.care:
        return "care", method.care
    weak = next(
        (
            f
            for f in found
            if f.code in ("star_weak_at_low_voltage", "changeover_high", "start_may_hang", "first_stage_hangs")
        ),
        None,
    )
    if weak:
        return "care", weak.message
    drawn = f"{as_read(built.starting_a)} A at the start"
    if built.start.result:
        drawn += f", running after {as_read(built.start.result.run_up_time_s)} s"
    return "fits", drawn + (f", a dip of {built.dip.board_pct:.1f} %" if built.dip else "")


def _locked_torque(document: StarterDocument, plate: Plate) -> float:
    given = document.motor.locked_rotor_torque_ratio
    return given if given is not None else typical_motor_value("locked_rotor_torque_ratio", plate.power_kw or 4.0)


def _standstill_torque(document: StarterDocument) -> float | None:
    """Torque of the load at standstill, of rated torque; None when it is not known."""
    load = document.load
    at_rest = {"constant": 1.0, "linear": 0.0, "square": 0.0, "constant_power": 1.0}
    share = None if load.torque_pct is None or load.shape is None else at_rest[load.shape] * load.torque_pct / 100
    if load.breakaway_pct is not None:
        return max(load.breakaway_pct / 100, share or 0.0)
    return share


def _bars(current_share: float, torque_share: float) -> Drawing:
    """Current and torque at standstill; the thin frame is direct on line."""
    width = 96.0
    shapes = []
    for y, share, name in ((4.0, current_share, "I"), (18.0, torque_share, "M")):
        shapes += [
            text(6, y + 9, name, 11),
            rect(14, y, width, 10, weight="hair"),
            rect(14, y, max(width * min(share, 1), 0.5), 10, filled=True),
            line(14, y, 14, y + 10),
            text(114, y + 9, f"{100 * share:.0f} %", 11, "start"),
        ]
    return Drawing(
        150,
        32,
        f"Starting current {100 * current_share:.0f} %, torque {100 * torque_share:.0f} % of direct on line",
        shapes,
    )
