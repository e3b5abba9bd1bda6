"""The motor that the examples of the core size."""

from collections.abc import Mapping
from typing import Any

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.context import Context
from volmek.core.devices.device import Device
from volmek.core.document.model import StarterDocument, parse
from volmek.core.plate.plate import Plate
from volmek.core.plate.reading import read_plate
from volmek.core.sizing import Sized, size

MOTOR: dict[str, Any] = {
    "tag": "A-1",
    "motor": {
        "rated_power_kw": 7.5,
        "rated_voltage_delta_v": 400,
        "rated_voltage_star_v": 690,
        "rated_current_delta_a": 14.4,
        "power_factor": 0.83,
        "rated_speed_rpm": 1460,
        "leads": 6,
    },
    "supply": {"line_voltage_v": 400, "frequency_hz": 50, "neutral": True, "prospective_current_ka": 10},
    "load": {"torque_pct": 80, "start_time_s": 3},
    "control": {"voltage_v": 230},
}


def example_document(**parts: Any) -> StarterDocument:
    """A 7.5 kW motor of 14.4 A on 400 V, direct on line, with parts of its document changed.

    Parameters
    ----------
    parts : of the document, laid over those of the motor

    Examples
    --------
    >>> example_document(starter={"type": "star_delta"}).motor.rated_power_kw
    7.5
    """
    return parse(
        {
            **MOTOR,
            **{
                name: {**MOTOR.get(name, {}), **part} if isinstance(part, Mapping) else part
                for name, part in parts.items()
            },
        }
    )


def example(**parts: Any) -> Sized:
    """The same motor, sized.

    Examples
    --------
    >>> example().design.currents.design_current_a
    14.4
    """
    return size(example_document(**parts), reference_catalogue())


def example_device(designation: str, **parts: Any) -> Device:
    """One device of the same motor's starter.

    Examples
    --------
    >>> example_device("Q1").settings.dial_a
    14.4
    """
    return next(d for d in example(**parts).design.devices if d.designation == designation)


def example_plate(**parts: Any) -> tuple[Context, Plate]:
    """The same motor's plate, and the context that the steps of the sizing go on with.

    Examples
    --------
    >>> example_plate()[1].locked_rotor.unit
    'A'
    """
    c = Context(example_document(**parts), reference_catalogue())
    return c, read_plate(c)
