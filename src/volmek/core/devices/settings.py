"""Settings of a device: typed, with the words and the unit of each, and as a dial can be read."""

from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from typing import Any, Final

from volmek.core.results.figures import as_read

#: Words and unit of a setting, as they stand on a setting sheet.
_WORDS: Final = "words"


def _set(label: str, unit: str = "") -> Mapping[str, tuple[str, str]]:
    return {_WORDS: (label, unit)}


@dataclass(frozen=True, slots=True)
class Settings:
    """Settings of a device of a starter; None is what cannot be set on it.

    Currents in A as the dial shows them, times in s, thresholds in % of the rated or mean voltage.

    Examples
    --------
    >>> Settings(dial_a=38.105, trip_class="10").trip_class
    '10'
    """

    dial_a: float | None = field(default=None, metadata=_set("overload setting", "A"))
    trip_class: str | None = field(default=None, metadata=_set("class"))
    instantaneous_trip_a: float | None = field(default=None, metadata=_set("magnetic trip", "A"))
    current_limit_a: float | None = field(default=None, metadata=_set("current limit", "A"))
    current_limit_ratio: float | None = None
    star_time_s: float | None = field(default=None, metadata=_set("star time", "s"))
    dwell_s: float | None = field(default=None, metadata=_set("pause", "s"))
    time_s: float | None = field(default=None, metadata=_set("delay", "s"))
    stall_a: float | None = field(default=None, metadata=_set("stall", "A"))
    earth_fault_a: float | None = field(default=None, metadata=_set("earth fault", "A"))
    underload_a: float | None = field(default=None, metadata=_set("underload", "A"))
    reset: str | None = field(default=None, metadata=_set("reset"))
    sequence: bool | None = field(default=None, metadata=_set("phase sequence"))
    asymmetry_pct: float | None = field(default=None, metadata=_set("asymmetry", "%"))
    undervoltage_pct: float | None = field(default=None, metadata=_set("undervoltage", "%"))
    overvoltage_pct: float | None = field(default=None, metadata=_set("overvoltage", "%"))
    neutral: bool | None = field(default=None, metadata=_set("neutral"))
    loss_delay_s: float | None = field(default=None, metadata=_set("loss, asymmetry after", "s"))
    voltage_delay_s: float | None = field(default=None, metadata=_set("voltage after", "s"))
    on_delay_s: float | None = field(default=None, metadata=_set("restart after", "s"))


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
    value: float | str | bool
    text: str
    unit: str


def settings_of(settings: Settings) -> list[Setting]:
    """Settings made on a device, in the order of the setting sheet.

    Parameters
    ----------
    settings : of a device

    Examples
    --------
    >>> [(s.label, s.text, s.unit) for s in settings_of(Settings(dial_a=38.105, trip_class="10"))]
    [('overload setting', '38.1', 'A'), ('class', '10', '')]
    """
    return [
        Setting(f.name, *_read(f.metadata[_WORDS], getattr(settings, f.name)))
        for f in fields(settings)
        if f.metadata and getattr(settings, f.name) is not None
    ]


def _read(words: tuple[str, str], value: float | str | bool) -> tuple[str, float | str | bool, str, str]:
    label, unit = words
    if isinstance(value, bool):
        return label, value, "on" if value else "off", ""
    return label, value, value if isinstance(value, str) else as_read(value), unit


def known(facts: Any) -> dict[str, Any]:
    """The facts of a frozen record that are known, by name: what files and pages show of it.

    Parameters
    ----------
    facts : a frozen record whose unknown values are None

    Examples
    --------
    >>> known(Settings(star_time_s=8.0))
    {'star_time_s': 8.0}
    """
    return {name: value for name in facts.__dataclass_fields__ if (value := getattr(facts, name)) is not None}


def plain(facts: Any) -> dict[str, Any]:
    """A record of plain values by name, the unknown ones too.

    Parameters
    ----------
    facts : a record without records in it

    Examples
    --------
    >>> plain(Settings())["dial_a"] is None
    True
    """
    return {name: getattr(facts, name) for name in facts.__dataclass_fields__}
