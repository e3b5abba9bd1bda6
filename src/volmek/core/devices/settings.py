"""What is to be set on a device, in words and as a dial can be read."""

from dataclasses import dataclass

from volmek.core.devices.device import Device, Fact
from volmek.core.results.figures import as_read

WORDS = {
    "dial_a": ("dial", "A"),
    "trip_class": ("class", ""),
    "instantaneous_trip_a": ("magnetic trip", "A"),
    "current_limit_a": ("current limit", "A"),
    "star_time_s": ("star time", "s"),
    "dwell_s": ("pause", "s"),
    "time_s": ("delay", "s"),
    "stall_a": ("stall", "A"),
    "earth_fault_a": ("earth fault", "A"),
    "underload_a": ("underload", "A"),
    "reset": ("reset", ""),
    "sequence": ("phase sequence", ""),
    "asymmetry_pct": ("asymmetry", "%"),
    "undervoltage_pct": ("undervoltage", "%"),
    "overvoltage_pct": ("overvoltage", "%"),
    "neutral": ("neutral", ""),
    "loss_delay_s": ("loss, asymmetry after", "s"),
    "voltage_delay_s": ("voltage after", "s"),
    "on_delay_s": ("restart after", "s"),
}


@dataclass(frozen=True, slots=True)
class Setting:
    """One thing to set.

    Attributes
    ----------
    key, label : which it is
    value, text, unit : what it is set to, and as it is read
    """

    key: str
    label: str
    value: Fact
    text: str
    unit: str


def settings_of(device: Device) -> list[Setting]:
    """Everything that is set on a device.

    Examples
    --------
    >>> d = Device("F1", "overload_relay", "overload_relay", "Overload relay", {}, {}, {"dial_a": 38.105, "trip_class": "10"})
    >>> [(s.label, s.text, s.unit) for s in settings_of(d)]
    [('dial', '38.1', 'A'), ('class', '10', '')]
    """
    found = []
    for key, (label, unit) in WORDS.items():
        value = device.settings.get(key)
        if isinstance(value, bool):
            found.append(Setting(key, label, value, "on" if value else "off", ""))
        elif value is not None:
            found.append(Setting(key, label, value, as_read(value) if isinstance(value, float) else str(value), unit))
    return found
