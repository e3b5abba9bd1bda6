"""Rated power, voltage and current as printed on a plate: fractions of a horsepower, delta and star, a low and a high voltage."""

import re
from collections.abc import Callable
from typing import Any

from volmek.core.document.units import NUMBER, in_unit_of, number_of, unit_pattern

#: Highest voltage that a plate's two ratios allow: √3 for delta and star, 2 for parallel and series.
ROOT3, DOUBLE = (1.6, 1.85), (1.8, 2.25)

Values = dict[str, Any]
Reader = Callable[[re.Match[str]], "tuple[Values, str] | None"]


def quantity(suffix: str) -> str:
    return rf"(?P<n>{NUMBER})\s*(?P<u>{unit_pattern(suffix)})(?![\w²])"


def single(field: str, says: str) -> Reader:
    """A single number with a unit of its field."""

    def read(match: re.Match[str]) -> tuple[Values, str] | None:
        value = in_unit_of(field, f"{match['n']} {match['u']}")
        return ({field: value}, says) if isinstance(value, float) else None

    return read


def plain(field: str, says: str) -> Reader:
    """A number whose unit, if any, is the field's own."""
    return lambda match: ({field: number_of(match["n"])}, says)


FRACTION = r"(?P<n>\d+[ -]\d/\d|\d/\d|\d*[¼½¾]|\d+(?:[.,]\d+)?)"
_VULGAR = {"¼": 0.25, "½": 0.5, "¾": 0.75}


def _horsepower(match: re.Match[str]) -> tuple[Values, str]:
    typed = match["n"]
    if typed[-1] in _VULGAR:
        value = float(typed[:-1] or 0) + _VULGAR[typed[-1]]
    elif "/" in typed:
        whole, _, part = typed.replace("-", " ").rpartition(" ")
        above, below = part.split("/")
        if below == "0":
            return {}, ""
        value = float(whole or 0) + int(above) / int(below)
    else:
        value = number_of(typed)
    return {"motor.rated_power_hp": value}, "rated power"


_MARKS = {"y": "star", "star": "star", "wye": "star"} | dict.fromkeys(("d", "δ", "△", "delta", "mesh"), "delta")
_OF_DELTA = r"(?:δ|△|delta|mesh|d)"
_MARK = rf"(?:{_OF_DELTA}|star|wye|y)"
_BAND = rf"{NUMBER}(?:\s*[-–]\s*{NUMBER})?"


def rated(kind: str) -> list[tuple[str, Reader]]:
    """Voltages or currents of a plate: one, two that belong to delta and star, or a low and a high one."""
    suffix = {"voltage": "v", "current": "a"}[kind]
    forms, name = unit_pattern(suffix), f"motor.rated_{kind}"

    def value(typed: str, form: str) -> float:
        # Of a band the upper end: 208-230 V.
        number = in_unit_of(f"x_{suffix}", f"{max(map(number_of, re.findall(NUMBER, typed)))} {form or suffix}")
        assert isinstance(number, float)
        return number

    def one(match: re.Match[str]) -> tuple[Values, str]:
        mark = _MARKS.get((match["before"] or match["mark"] or "").lower())
        number = value(match["n"], match["u"])
        if mark:
            return {f"{name}_{mark}_{suffix}": number}, f"{kind} in {mark}"
        return {f"{name}_{suffix}": number}, f"rated {kind}"

    def two(match: re.Match[str]) -> tuple[Values, str] | None:
        first, second = (value(match[i], match["u"]) for i in ("n", "m"))
        low, high = min(first, second), max(first, second)
        if kind == "current":
            low, high = high, low  # it is the higher one at the lower voltage
        ratio = max(low, high) / min(low, high)
        if ROOT3[0] <= ratio <= ROOT3[1]:
            said = [_MARKS[match[i].lower()] for i in ("p", "q")] if match["p"] else []
            if said and said != (["delta", "star"] if first == low else ["star", "delta"]):
                return None
            return {f"{name}_delta_{suffix}": low, f"{name}_star_{suffix}": high}, f"{kind} in delta and star"
        if DOUBLE[0] < ratio <= DOUBLE[1] and not match["p"]:
            return {f"{name}_low_{suffix}": low, f"{name}_high_{suffix}": high}, f"{kind}, low and high voltage"
        return None

    lead = "" if kind == "voltage" else r"(?:(?:fl[ac]|in|ir|i)\s*[:=]?\s*)?"
    pair = rf"{lead}(?P<n>{_BAND})\s*/\s*(?P<m>{_BAND})"
    rules: list[tuple[str, Reader]] = [
        (
            rf"{lead}(?:(?P<before>{_MARK})\s*)?(?P<n>{_BAND})\s*(?P<u>{forms})(?:\s*(?P<mark>{_MARK})(?!\s*[-/ ]\s*{_OF_DELTA}\b))?(?![\w²])",
            one,
        ),
        (rf"{pair}\s*(?P<u>{forms})(?P<p>)(?![\w²])", two),
        (rf"{pair}\s*(?P<u>{forms})\s*(?P<p>{_MARK})\s*/\s*(?P<q>{_MARK})(?!\w)", two),
    ]
    if kind == "current":  # nobody writes the ampere behind FLA
        rules += [
            (rf"fl[ac]\s*[:=]?\s*(?P<n>{NUMBER})(?P<before>)(?P<mark>)(?P<u>)(?![\w²/.])", one),
            (rf"fl[ac]\s*[:=]?\s*(?P<n>{NUMBER})\s*/\s*(?P<m>{NUMBER})(?P<u>)(?P<p>)(?![\w²/.])", two),
        ]
    return rules


def power() -> list[tuple[str, Reader]]:
    """Rated power in kW, W, hp or PS."""
    return [
        (rf"{FRACTION}\s*-?\s*(?:{unit_pattern('hp')})(?!\w)", _horsepower),
        (quantity("kw"), single("motor.rated_power_kw", "rated power")),
        (quantity("ps"), single("motor.rated_power_ps", "rated power")),
    ]


def paired(values: dict[str, Any], prefix: str = "") -> dict[str, Any]:
    """Two currents belong to the connections that the plate's two voltages belong to, whatever their rounded ratio says.

    Parameters
    ----------
    values : rated values of a motor by field
    prefix : what stands before the names of the fields

    Examples
    --------
    >>> paired({"rated_voltage_delta_v": 230, "rated_voltage_star_v": 400, "rated_current_low_a": 0.3, "rated_current_high_a": 0.16})
    {'rated_voltage_delta_v': 230, 'rated_voltage_star_v': 400, 'rated_current_delta_a': 0.3, 'rated_current_star_a': 0.16}
    """
    ways = (("delta", "star"), ("low", "high"))
    for mine, other in (ways, ways[::-1]):
        volts = all(f"{prefix}rated_voltage_{k}_v" in values for k in mine)
        amps = [f"{prefix}rated_current_{k}_a" for k in other]
        if volts and all(f in values for f in amps):
            names = dict(zip(amps, (f"{prefix}rated_current_{k}_a" for k in mine), strict=True))
            return {names.get(k, k): v for k, v in values.items()}
    return values


def rated_values(name: str, typed: object) -> dict[str, float]:
    """Fields of a motor that a rated value belongs to, typed into one of them as printed on the plate.

    Parameters
    ----------
    name : of the field of the motor that it was typed into
    typed : ``400/690 V``, ``14.8/8.5``, ``400 Δ``, ``7-1/2 hp``

    Returns
    -------
    Values by field; empty where it is a plain number or cannot be understood.

    Examples
    --------
    >>> rated_values("rated_voltage_v", "400/690"), rated_values("rated_current_a", "14,8 A Δ")
    ({'rated_voltage_delta_v': 400.0, 'rated_voltage_star_v': 690.0}, {'rated_current_delta_a': 14.8})
    >>> rated_values("rated_power_kw", "7-1/2 hp"), rated_values("rated_power_kw", "7.5"), rated_values("rated_speed_rpm", "4/2")
    ({'rated_power_hp': 7.5}, {}, {})

    References
    ----------
    IEC 60034-1, clause 10; NEMA MG 1, 10.40.
    """
    kinds = {"rated_voltage_v": ("voltage", "V"), "rated_current_a": ("current", "A")}
    text = str(typed).strip()
    if not isinstance(typed, str) or re.fullmatch(rf"{NUMBER}", text):
        return {}
    if name in kinds:
        kind, unit = kinds[name]
        marks = re.search(rf"\s*{_MARK}(?:\s*/\s*{_MARK})?\s*$", text, re.IGNORECASE)
        bare = text[: marks.start()] if marks else text
        if not re.search(rf"(?:{unit_pattern(unit.lower())})\s*$", bare, re.IGNORECASE):
            text = f"{bare} {unit}{text[len(bare) :]}"
        rules = rated(kind)
    elif name in ("rated_power_kw", "rated_power_hp", "rated_power_ps"):
        rules = power()
    else:
        return {}
    for pattern, reader in rules:
        match = re.fullmatch(pattern, text, re.IGNORECASE)
        read = reader(match) if match else None
        if read and read[0]:
            return {field.partition(".")[2]: value for field, value in read[0].items()}
    return {}
