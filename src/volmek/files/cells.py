"""Cells of the text files that a spreadsheet opens: none is run as a formula."""

import re
from collections.abc import Mapping

#: What a spreadsheet takes for the beginning of a formula or a command.
RUN = re.compile(r"^[=+\-@\t\r]")
NUMBER = re.compile(r"^[+-]?\d+(\.\d*)?([eE][+-]?\d+)?$")


def safe_cell(value: object) -> object:
    """A cell that is shown as it is: text that would be run is put behind an apostrophe, numbers stay numbers.

    Examples
    --------
    >>> [safe_cell(x) for x in ("=1+1", "-2.5", "@SUM(A1)", "KG-101", 7, "-K1")]
    ["'=1+1", '-2.5', "'@SUM(A1)", 'KG-101', 7, "'-K1"]
    """
    if isinstance(value, str) and RUN.match(value) and not NUMBER.match(value):
        return "'" + value
    return value


def safe_row(row: Mapping[str, str]) -> dict[str, object]:
    """A row by its columns, every cell safe."""
    return {column: safe_cell(value) for column, value in row.items()}


def plain_text(cell: str) -> str:
    """The text of a cell that ``safe_cell`` has put behind an apostrophe.

    Examples
    --------
    >>> plain_text("'-K1"), plain_text("'quoted'"), plain_text("x")
    ('-K1', "'quoted'", 'x')
    """
    return cell[1:] if cell[:1] == "'" and RUN.match(cell[1:]) else cell
