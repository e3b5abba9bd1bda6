"""How long contactors, relays and buttons take: the usual times, and between which bounds they lie."""

from functools import cache
from typing import Literal

from volmek.data.loader import standard

#: Coils whose times differ: alternating current, direct current with a diode across it, wide-range with its own electronics.
CoilKind = Literal["ac", "dc", "electronic"]
COIL_WORDS: dict[CoilKind, str] = {
    "ac": "AC coils",
    "dc": "DC coils with a diode",
    "electronic": "coils with electronics",
}
#: How far a set time may be off, of its setting.
SETTING = 0.2
#: Least and most, in milliseconds; no most where nothing bounds it.
Bounds = tuple[float, float | None]


@cache
def _rows() -> dict[tuple[str, str, str], tuple[float, float | None, float | None]]:
    return {
        (r["kind"], r["coil"], r["step"]): (r["least_ms"], r["usual_ms"], r["most_ms"])
        for r in standard("switching_times")
    }


def usual_s(kind: str, step: str) -> float:
    """Usual time of one step of a device [s].

    Parameters
    ----------
    kind : ``contactor``, ``relay``, ``timer`` or ``star_delta_timer``
    step : ``break_contacts_open``, ``poles_close``, ``poles_open`` or ``break_contacts_close``; of a time relay ``returns``

    Examples
    --------
    >>> usual_s("contactor", "poles_open")
    0.01
    """
    coil = "ac" if kind in ("contactor", "relay") else "any"
    found = _rows()[kind, coil, step][1]
    assert found is not None
    return found / 1000


def bounds_ms(kind: str, step: str, coil: CoilKind = "ac") -> Bounds:
    """Least and most time of one step of a device [ms]; no most where it may take for ever.

    Parameters
    ----------
    kind, step : as for ``usual_s``; of a ``button`` its step is ``travels``: from one contact to the other
    coil : which coils the circuit has

    References
    ----------
    Times as makers' data give them for contactors up to 100 A: pull-in 15 to 30 ms and release 4 to 16 ms with alternating current, release up to 150 ms
    with direct current and a diode across the coil, pull-in 40 to 70 ms and release 35 to 110 ms with electronics in the coil.

    Examples
    --------
    >>> bounds_ms("contactor", "poles_open"), bounds_ms("button", "travels")
    ((4.0, 16.0), (5.0, None))
    """
    least, _, most = _rows()[kind, coil if kind in ("contactor", "relay") else "any", step]
    return least, most


def set_ms(time_s: float) -> Bounds:
    """Bounds of a time that is set on a dial [ms].

    Parameters
    ----------
    time_s : its setting

    References
    ----------
    IEC 61812-1 leaves the accuracy of a setting to the maker; 10 % of full scale is usual, taken here as a fifth of the setting.

    Examples
    --------
    >>> set_ms(0.05)
    (40.0, 60.0)
    """
    return 1000 * time_s * (1 - SETTING), 1000 * time_s * (1 + SETTING)
