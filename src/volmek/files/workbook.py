"""A workbook as plain cells, read in a process of its own: what is damaged or too large ends there, and not the server.

Run as ``python -m volmek.files.workbook``: the file on standard input, its sheets as JSON on standard output.
"""

import io
import json
import subprocess
import sys
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, time
from typing import Any
from xml.parsers import expat

#: Limits of a workbook before it is read: unpacked size, a row's number, columns, cells, texts that cells share.
UNPACKED_BYTES, ROWS, COLUMNS, CELLS, SHARED = 60_000_000, 20_001, 100, 500_000, 300_000
#: Limits of the process that reads it: seconds by the clock, memory.
WALL_S, MEMORY_BYTES = 25.0, 1_500_000_000
CHUNK = 1 << 16

Sheet = tuple[str, list[tuple[int, list[str]]]]


@dataclass(frozen=True, slots=True)
class Workbook:
    """Sheets of a workbook, each with its title and its rows by number, or why it cannot be read."""

    sheets: list[Sheet]
    problem: str = ""


class TooLargeError(ValueError):
    """A limit is passed: one sentence."""


def read_workbook(data: bytes, wall_s: float = WALL_S) -> Workbook:
    """Every sheet of an XLSX file as text cells.

    Parameters
    ----------
    data : content of the file
    wall_s : the most seconds that it may take
    """
    try:
        done = subprocess.run([sys.executable, "-m", "volmek.files.workbook"], input=data, capture_output=True, timeout=wall_s, check=False)  # fmt: skip
    except subprocess.TimeoutExpired:
        return Workbook([], f"takes more than {wall_s:g} s to read: split it, or save it as CSV")
    try:
        found = json.loads(done.stdout)
        return Workbook(
            [(title, [(n, cells) for n, cells in rows]) for title, rows in found["sheets"]], found["problem"]
        )
    except (ValueError, KeyError, TypeError):  # it was ended: no memory
        return Workbook([], "is too large or too damaged to be read: save it anew, or as CSV")


def checked(data: bytes) -> int:
    """Refuse a workbook that passes a limit, before any of it is kept.

    Returns
    -------
    How many sheets its list of them names.

    Raises
    ------
    TooLargeError : which limit.
    zipfile.BadZipFile, expat.ExpatError : it is damaged.
    """
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        unpacked = sum(entry.file_size for entry in archive.infolist())
        if unpacked > UNPACKED_BYTES:
            raise TooLargeError(f"unpacks to {unpacked / 1e6:.0f} MB; {UNPACKED_BYTES / 1e6:g} MB is the most")
        cells, sheets, left = 0, 0, UNPACKED_BYTES
        for entry in archive.infolist():
            if not entry.filename.endswith((".xml", ".rels")):
                continue
            look = _Look()
            with archive.open(entry) as part:
                while chunk := part.read(CHUNK):
                    left -= len(chunk)
                    if left < 0:  # what the directory says of the sizes is not true
                        raise TooLargeError(f"unpacks to more than {UNPACKED_BYTES / 1e6:g} MB")
                    look.parser.Parse(chunk, False)
                    if cells + look.cells > CELLS:
                        raise TooLargeError(f"has more than {CELLS} cells")
                look.parser.Parse(b"", True)
            cells, sheets = cells + look.cells, sheets + look.sheets
    return sheets


class _Look:
    """Counts what a part of a workbook holds, without keeping any of it."""

    def __init__(self) -> None:
        self.parser = expat.ParserCreate()
        self.cells = self.rows = self.shared = self.sheets = 0
        self.parser.StartElementHandler = self.start
        self.parser.StartDoctypeDeclHandler = self.doctype

    def doctype(self, *_: object) -> None:
        raise TooLargeError("declares entities of its own, which a workbook has no need of")

    def start(self, name: str, attributes: dict[str, str]) -> None:
        tag = name.rpartition(":")[2]
        if tag == "row":
            self.rows = int(attributes.get("r", self.rows + 1))
            if self.rows > ROWS:
                raise TooLargeError(f"has a row {self.rows}; {ROWS - 1} below the headings are the most")
        elif tag == "c":
            self.cells += 1
            letters = "".join(x for x in attributes.get("r", "") if x.isalpha())
            column = 0
            for x in letters.upper():
                column = column * 26 + ord(x) - 64
            if column > COLUMNS:
                raise TooLargeError(f"has a column {letters}, the {column}th; {COLUMNS} columns are the most")
        elif tag == "sheet":
            self.sheets += 1
        elif tag == "si":
            self.shared += 1
            if self.shared > SHARED:
                raise TooLargeError(f"has more than {SHARED} texts")


def _sheets(data: bytes, named: int) -> Iterator[Sheet]:
    from openpyxl import load_workbook

    book = load_workbook(io.BytesIO(data), read_only=True)
    if len(book.sheetnames) < named:  # the library leaves out a sheet that is not there, without a word
        raise KeyError("sheet")
    for sheet in book.worksheets:
        sheet.reset_dimensions()
        rows = [(n, [_text(cell) for cell in row]) for n, row in enumerate(sheet.iter_rows(), start=1)]
        yield sheet.title, [(n, cells) for n, cells in rows if any(x.strip() for x in cells)]


def _text(cell: Any) -> str:
    """A cell as a CSV file would hold it; a formula keeps its sign, so that it is refused."""
    value = cell.value
    if value is None:
        return ""
    if cell.data_type == "f":
        text = str(getattr(value, "text", value))
        return text if text.startswith("=") else f"={text}"
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, float):
        return repr(value).removesuffix(".0")
    if isinstance(value, date | time):
        return f"{value} (a date)"
    return str(value)


def _main() -> None:
    import resource

    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (int(WALL_S) + 5, int(WALL_S) + 5))
    data = sys.stdin.buffer.read()
    problem, sheets = "", list[Sheet]()
    try:
        sheets = list(_sheets(data, checked(data)))
    except TooLargeError as error:
        problem, sheets = str(error), []
    except Exception as error:
        # Whatever is damaged in a workbook, it is one sentence; the kind of error is for who made the file.
        problem, sheets = f"is not an XLSX file that can be read ({type(error).__name__}): save it anew, or as CSV", []
    sys.stdout.write(json.dumps({"sheets": sheets, "problem": problem}))


if __name__ == "__main__":
    _main()
