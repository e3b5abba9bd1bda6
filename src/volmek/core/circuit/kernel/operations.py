"""The operations of a simulation as a fitter types them."""

import re
from collections.abc import Iterator

from volmek.core.document.errors import Problem, ProblemError

OPERATIONS = (
    "press X, release X, turn X POSITION, trip F1, reset F1, lose L1|L2|L3|N|C, restore L1|L2|L3|N|C, swap L1 L2, voltage PCT, open X, close X, "
    "push K1, let K1, wait SECONDS, pause SECONDS"
)


def operations(text: str) -> Iterator[str]:
    """Operations of a script, set apart by semicolons.

    Parameters
    ----------
    text : the script, one operation after another

    Examples
    --------
    >>> list(operations("press S2; wait 0.5;release S2"))
    ['press S2', 'wait 0.5', 'release S2']
    """
    for part in re.split(r"[;\n]", text):
        if part.strip():
            yield " ".join(part.split())


_NUMBER = re.compile(r"\d+(\.\d+)?|\.\d+", re.ASCII)


def plain_number(text: str) -> float | None:
    """A number as a fitter writes it: digits with one point; None for anything else.

    Parameters
    ----------
    text : what was typed, without a sign

    Examples
    --------
    >>> plain_number("2.5"), plain_number("1_0"), plain_number("1e3")
    (2.5, None, None)
    """
    return float(text) if _NUMBER.fullmatch(text) else None


def number_in(text: str, operation: str, low: float, high: float) -> float:
    """The number in an operation.

    Parameters
    ----------
    text, operation : the number as it is typed, and the operation that it stands in
    low, high : ends of what is allowed

    Raises
    ------
    ProblemError : no number, or one outside the span.

    Examples
    --------
    >>> number_in("0.5", "wait 0.5", 0, 3600)
    0.5
    """
    value = plain_number(text)
    if value is None:
        raise unknown_operation(operation)
    if not low <= value <= high:
        raise unknown_operation(operation, f"{text} is not from {low:g} to {high:g}")
    return value


def unknown_operation(operation: str, why: str = "") -> ProblemError:
    """The refusal of an operation, with those that there are.

    Parameters
    ----------
    operation : as it is typed
    why : in words; empty where the operation is not known at all

    Examples
    --------
    >>> unknown_operation("bang K1").problems[0].field
    'do'
    """
    return ProblemError(
        [Problem("do", f"'{operation}' cannot be done here{': ' + why if why else ''}; operations: {OPERATIONS}")]
    )
