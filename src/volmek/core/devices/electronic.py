"""Functions of an electronic relay besides overload: stall, earth fault, underload."""

from typing import Any

from volmek.core.catalogue.device_types import OverloadRelay
from volmek.core.context import Context
from volmek.core.devices.settings import Settings
from volmek.core.plate.plate import Plate, load_current_ratio, no_load_current_ratio
from volmek.core.results.figures import Figure
from volmek.core.standards.tables import typical_motor_value

#: Multiples of the motor current by default: stall in the middle of 2 to 3, earth fault within 20 to 50 %.
STALL_MULTIPLE, EARTH_FAULT_SHARE = 2.5, 0.3


def underload_threshold_ratio(no_load_ratio: float, duty_ratio: float) -> float:
    """Current below which a machine runs dry or its belt is off.

    Parameters
    ----------
    no_load_ratio, duty_ratio : no-load current and current at the usual load, over rated current [-]

    Examples
    --------
    >>> underload_threshold_ratio(0.4, 0.8)
    0.6000000000000001

    References
    ----------
    Midway between the two; usual practice.
    """
    return (no_load_ratio + duty_ratio) / 2


def relay_functions(
    c: Context, plate: Plate, relay: OverloadRelay, role: str, ratio: float
) -> tuple[Settings, list[Figure]]:
    """Settings of the functions that a relay has, and the figures of their figures.

    Parameters
    ----------
    ratio : motor current over relay current

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> own = [{"role": "overload_relay", "device_type": "RE-24", "reason": "for the jam"}]
    >>> example_device("F1", protection={"device": "fuse_am"}, overrides=own).settings.stall_a
    36.0
    """
    w = c.working
    settings: dict[str, Any] = {}
    figures: list[Figure] = []

    def take(name: str, figure: Figure) -> None:
        settings[name] = figure.number
        figures.append(figure)

    base = plate.permitted
    through = base.number / ratio
    if "stall" in relay.functions:
        take("stall_a", w.add(f"{role}.stall_a", "Stall and jam threshold", "Ist", STALL_MULTIPLE * through, "A", inputs=(base,),
             formula=f"{STALL_MULTIPLE / ratio:.3g}·{base.symbol}", rule="2 to 3 times the motor current, after 0.5 to 2 s; off during the start",
             source="usual practice; default"))  # fmt: skip
    if "earth_fault" in relay.functions:
        take("earth_fault_a", w.add(f"{role}.earth_fault_a", "Earth-fault threshold", "Ief", EARTH_FAULT_SHARE * through, "A", inputs=(base,),
             formula=f"{EARTH_FAULT_SHARE / ratio:.3g}·{base.symbol}", rule="20 to 50 % of the motor current", source="usual practice; default"))  # fmt: skip
    torque = c.document.load.torque_pct
    if "underload" in relay.functions and torque is not None and plate.power_factor is not None and plate.phases == 3:
        mb = c.document.motor.breakdown_torque_ratio or typical_motor_value(
            "breakdown_torque_ratio", plate.power_kw or 4.0
        )
        idle = no_load_current_ratio(plate.power_factor.number, mb)
        duty = load_current_ratio(torque / 100, idle)
        if duty > idle:
            share = w.typed("load.torque_pct", "Load torque of rated torque", "M", torque, "%")
            take("underload_a", w.add(f"{role}.underload_a", "Underload threshold", "Iul", underload_threshold_ratio(idle, duty) * through, "A",
                 inputs=(base, share, plate.power_factor), typical=c.document.motor.breakdown_torque_ratio is None,
                 rule=f"midway between no load ({100 * idle:.0f} %) and this load ({100 * duty:.0f} % of rated current), with a delay past the start",
                 source="circle diagram of the induction motor; usual practice"))  # fmt: skip
    return Settings(**settings), figures
