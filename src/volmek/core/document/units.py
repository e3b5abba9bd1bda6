"""Numbers typed with a unit, converted to the unit of the field."""

import re
from functools import cache

from volmek.data.loader import handbook

#: A number with decimal point or comma, as it stands on a plate; a fraction of North American practice comes with it.
NUMBER = r"(?:\d+(?:[.,]\d+)?|\.\d+)"
_TYPED = re.compile(rf"^\s*([+-]?{NUMBER})\s*(\S.*?)\s*$")


@cache
def _forms() -> dict[str, dict[str, tuple[float, float]]]:
    """Factor and offset by suffix of the field and form of the unit, in small letters."""
    found: dict[str, dict[str, tuple[float, float]]] = {}
    for row in handbook("units"):
        for form in row["forms"].split("|"):
            found.setdefault(row["suffix"], {})[form] = (float(row["factor"]), float(row["offset"]))
    return found


def number_of(text: str) -> float:
    """A number as printed on a plate, with point or comma.

    Examples
    --------
    >>> number_of("7,5"), number_of("1480")
    (7.5, 1480.0)
    """
    return float(text.replace(",", "."))


def in_unit_of(field: str, typed: object) -> object:
    """The number that belongs into a field, from a number typed with a unit; anything else as it is.

    Parameters
    ----------
    field : name of a field, whose suffix tells its unit
    typed : ``7500 W`` for a field in kW; without a unit, or with one that is none of the field's, it stays what it is

    Returns
    -------
    To twelve digits.

    Examples
    --------
    >>> in_unit_of("rated_power_kw", "7500 W"), in_unit_of("rated_current_a", "14,8 A"), in_unit_of("cable_length_m", "100 ft")
    (7.5, 14.8, 30.48)
    >>> in_unit_of("ambient_c", "104 °F"), in_unit_of("rated_power_kw", "10 hp"), in_unit_of("tag", "4 kW")
    (40.0, '10 hp', '4 kW')
    """
    if type(typed) is not str or (match := _TYPED.match(typed)) is None:
        return typed
    unit = _forms().get(field.rpartition("_")[2], {}).get(re.sub(r"\s+", " ", match[2].lower()))
    if unit is None:
        return typed
    factor, offset = unit
    return float(f"{number_of(match[1]) * factor + offset:.12g}")


@cache
def unit_pattern(suffix: str) -> str:
    """Regular expression of every form of a field's units, the longest first.

    Examples
    --------
    >>> unit_pattern("kw")
    'kilowatts|kilowatt|watts|watt|kw|w'
    """
    return "|".join(re.escape(form).replace(r"\ ", r"\s?") for form in sorted(_forms()[suffix], key=len, reverse=True))
