"""Conductor sizes of North American practice, typed in the place of square millimetres."""

import re
from math import pi

#: One thousand circular mils [mm²].
KCMIL_MM2 = 0.506707479
_AWG = re.compile(r"^\s*(\d{1,2}|[1-4]/0)\s*(?:awg)?\s*$", re.IGNORECASE)
_KCMIL = re.compile(r"^\s*(\d{3,4})\s*(?:kcmil|mcm)\s*$", re.IGNORECASE)


def section_mm2(typed: object) -> object:
    """Section of a size that is typed as a gauge [mm²]; anything else as it is.

    Parameters
    ----------
    typed : ``12 AWG``, ``2/0 AWG``, ``500 kcmil``; a number stays a number

    Returns
    -------
    To four digits, as tables give it.

    Examples
    --------
    >>> section_mm2("12 AWG"), section_mm2("4/0 awg"), section_mm2("250 kcmil"), section_mm2(2.5)
    (3.309, 107.2, 126.7, 2.5)

    References
    ----------
    ASTM B258: diameter 0.127 mm·92^((36−n)/39).
    """
    if not isinstance(typed, str):
        return typed
    if kcmil := _KCMIL.match(typed):
        return float(f"{int(kcmil[1]) * KCMIL_MM2:.4g}")
    gauge = _AWG.match(typed)
    if gauge is None or ("awg" not in typed.lower() and "/" not in typed):
        return typed
    n = 1 - int(gauge[1][0]) if "/" in gauge[1] else int(gauge[1])
    return float(f"{pi / 4 * (0.127 * 92 ** ((36 - n) / 39)) ** 2:.4g}")
