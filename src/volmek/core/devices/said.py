"""A device in one line: what is needed of it, what was picked, what is set on it."""

from volmek.core.devices.device import Device
from volmek.core.devices.settings import settings_of
from volmek.core.results.figures import as_read


def settings_as_read(device: Device) -> list[tuple[str, str]]:
    """Settings of a device, in words and as its scale can be read.

    Parameters
    ----------
    device : of a design

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> settings_as_read(example_device("Q1"))[0]
    ('overload setting', '14.4 A')
    """
    return [(s.label, f"{s.text} {s.unit}".strip()) for s in settings_of(device.settings)]


def needs_of(device: Device) -> str:
    """Required rating of a device, in one line.

    Parameters
    ----------
    device : of a design

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> needs_of(example_device("K1"))
    '14.4 A AC-3'
    """
    r = device.required
    parts = [f"{as_read(r.current_a)} A{' ' + r.category if r.category else ''}"] if r.current_a is not None else []
    parts += _said(
        ("holds {} A peak", r.instantaneous_lower_edge_a),
        ("breaks {} kA", r.breaking_capacity_ka),
        ("{} VA momentarily", r.short_time_va),
        ("{} VA continuous", r.continuous_va),
    )
    return ", ".join(parts)


def picked_of(device: Device) -> str:
    """Type and rating of the device picked, in one line.

    Parameters
    ----------
    device : of a design

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> picked_of(example_device("K1")).split(", ")[:2]
    ['RC-17', '17 A']
    """
    s = device.selected
    if s.type is None:
        return "none in the catalogue"
    parts = [s.type]
    if s.range_min_a is not None:
        parts.append(f"{s.range_min_a:g}–{s.range_max_a:g} A")
    elif s.rated_current_a is not None:
        parts.append(f"{as_read(s.rated_current_a)} A")
    parts += _said(
        ("coil {}", s.coil),
        ("Icu {} kA", s.breaking_capacity_ka),
        ("on {}", s.base),
        ("{} VA", s.rated_va),
        ("block {}", s.auxiliary_block),
    )
    return ", ".join(p.replace(" kA", "\u00a0kA").replace(" V ", "\u00a0V\u00a0") for p in parts)


def _said(*facts: tuple[str, float | str | None]) -> list[str]:
    return [words.format(v if isinstance(v, str) else as_read(v)) for words, v in facts if v is not None]
