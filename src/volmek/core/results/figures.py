"""A number that can explain itself: value, unit, formula, the figures it came from, rule and source.

The working panel of the application is a walk through the graph that these figures form.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

Value = float | str


@dataclass(slots=True)  # not frozen: hundreds are made at every keystroke, and freezing doubles their cost
class Candidate:
    """A choice that was looked at for a figure.

    Attributes
    ----------
    name : what a fitter would call it (device type, class, rating)
    taken : it is the one in use
    fits : it would also do; when False, ``reason`` says why not
    reason : one sentence
    """

    name: str
    taken: bool
    fits: bool
    reason: str


@dataclass(slots=True)  # not frozen, for the same reason; nothing changes a figure once it is made
class Figure:
    """One number or choice of a design.

    Attributes
    ----------
    id : its name in the design
    label : what it is, in words
    symbol : letter in formulas
    value, unit : full value in the unit
    text : the value as a setting or a meter can be read
    formula : with symbols; ``substituted`` has the figures put in
    inputs : ids of the figures it came from
    rule, source : why this formula, and where it comes from
    school : the school followed where fitters differ
    field : path in the document, for what a user typed or may type
    typical : it rests on a typical value, not on the plate
    note : one more sentence
    candidates : what was looked at and taken or rejected
    """

    id: str
    label: str
    symbol: str
    value: Value
    unit: str
    text: str
    formula: str = ""
    substituted: str = ""
    inputs: tuple[str, ...] = ()
    rule: str = ""
    source: str = ""
    school: str = ""
    field: str = ""
    typical: bool = False
    note: str = ""
    candidates: tuple[Candidate, ...] = ()

    @property
    def number(self) -> float:
        """The value, known to be a number."""
        if isinstance(self.value, str):
            raise TypeError(f"{self.id} is not a number")
        return self.value


def as_read(value: float) -> str:
    """A number as a setting or a meter can be read: three significant figures, no trailing noise.

    Parameters
    ----------
    value : any finite number

    Returns
    -------
    Text with three significant figures, thousands set apart by a narrow space from 10 000 on.

    Examples
    --------
    >>> as_read(14.437), as_read(1480), as_read(0.06), as_read(475.2), as_read(99237.0)
    ('14.4', '1480', '0.06', '475', '99\\u202f200')

    References
    ----------
    Presentation rule of the application; the full value is never replaced by this text.
    """
    magnitude = abs(value)
    if value == int(value) and magnitude < 10_000:
        return str(int(value))
    if magnitude >= 1000:
        rounded = f"{float(f'{value:.3g}'):.0f}" if magnitude >= 10_000 else f"{value:.0f}"
        if magnitude < 10_000:
            return rounded
        return f"{int(rounded):,}".replace(",", "\u202f")
    text = f"{value:.3g}"
    return f"{float(text):f}".rstrip("0").rstrip(".") if "e" in text else text


def as_sentence(words: str) -> str:
    """Words with a capital and a full stop.

    Examples
    --------
    >>> as_sentence("this motor has 3 leads")
    'This motor has 3 leads.'
    """
    return words[:1].upper() + words[1:] + ("" if words.endswith((".", "?")) else ".")


def within(seconds: float) -> str:
    """Latest time at which a device has acted, in words.

    Examples
    --------
    >>> within(12.34), within(float("inf"))
    ('after up to 12.3 s', 'never')
    """
    return "never" if seconds == float("inf") else f"after up to {as_read(seconds)} s"


class Working:
    """Log of the figures of one design, in the order they were made: written by every step, read when the last is done."""

    def __init__(self) -> None:
        self._figures: dict[str, Figure] = {}

    def written(self) -> dict[str, Figure]:
        """Every figure by its id."""
        return self._figures

    def take(self, other: "Working") -> None:
        """Every figure of another log, that was kept aside."""
        self._figures |= other._figures

    def again(self, figure: Figure, **changed: Any) -> Figure:
        """A figure under another id, with its working, so that one click shows why."""
        copy = replace(figure, **changed)
        self._figures[copy.id] = copy
        return copy

    def add(
        self,
        id: str,
        label: str,
        symbol: str,
        value: Value,
        unit: str = "",
        *,
        formula: str = "",
        inputs: tuple[Figure | None, ...] = (),
        text: str | None = None,
        typical: bool | None = None,
        **more: Any,
    ) -> Figure:
        """Make a figure. It is typical when it is said to be, else when any of its inputs is."""
        known = [i for i in inputs if i is not None]
        figure = Figure(
            id=id,
            label=label,
            symbol=symbol,
            value=value,
            unit=unit,
            text=text if text is not None else value if isinstance(value, str) else as_read(value),
            formula=formula,
            substituted=substitute(formula, known) if formula and known else "",
            inputs=tuple([i.id for i in known]),
            typical=any(i.typical for i in known) if typical is None else typical,
            **more,
        )
        self._figures[id] = figure
        return figure

    def typed(self, field: str, label: str, symbol: str, value: Value | None, unit: str = "") -> Figure | None:
        """A figure that a user typed; None when it is unknown."""
        if value is None:
            return None
        return self.add(field, label, symbol, value, unit, field=field, source="typed")


def substitute(formula: str, inputs: Sequence[Figure]) -> str:
    """The formula with the inputs' figures in the place of their symbols.

    Examples
    --------
    >>> w = Working()
    >>> substitute("P / (√3·U)", (w.add("p", "power", "P", 7500.0, "W"), w.add("u", "voltage", "U", 400.0, "V")))
    '7500 / (√3·400)'
    """
    symbols = {i.symbol: i.text for i in inputs if i.symbol}
    if not formula or not symbols:
        return ""
    return _any_of(tuple(symbols)).sub(lambda m: symbols[m.group()], formula)


@lru_cache(maxsize=1024)
def _any_of(symbols: tuple[str, ...]) -> re.Pattern[str]:
    """One of the symbols, standing alone; the longest that fits."""
    longest_first = "|".join(re.escape(s) for s in sorted(symbols, key=len, reverse=True))
    return re.compile(rf"(?<!\w)(?:{longest_first})(?!\w)")
