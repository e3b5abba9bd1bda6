"""Catalogues as CSV and XLSX: read with every problem at its row and column, written, and as empty templates."""

import csv
import io
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import islice
from typing import Any

from volmek.core.catalogue.catalogue import RowProblem, check_headings, read_rows
from volmek.core.catalogue.device_types import TABLES, Device
from volmek.core.catalogue.guide import TableGuide, answers, table_guides
from volmek.core.catalogue.plain import EXAMPLE, column_of, completed, example_rows, lacking, table_of
from volmek.files.cells import plain_text, safe_row
from volmek.files.workbook import read_workbook

#: The largest file; what an XLSX file may hold is checked where it is read.
MAXIMUM_BYTES = 10_000_000
MAXIMUM_ROWS, MAXIMUM_COLUMNS, MAXIMUM_CELL = 20_000, 100, 500
#: Sheet of the templates that explains the columns; it is left out when a file is read.
GUIDE_SHEET = "columns"

Rows = list[tuple[int, dict[str, str]]]


@dataclass(slots=True)
class CatalogueFile:
    """Contents of a file.

    Attributes
    ----------
    devices : checked devices by table
    problems : everything that is wrong; when there is anything, the file must not be taken
    columns, rows : headings and text cells of each table as they were read, for a preview
    """

    devices: dict[str, list[Device]] = field(default_factory=dict)
    problems: list[RowProblem] = field(default_factory=list)
    columns: dict[str, list[str]] = field(default_factory=dict)
    rows: dict[str, Rows] = field(default_factory=dict)

    def fail(self, message: str, table: str = "file", row: int = 0, column: str = "") -> None:
        """Add a problem."""
        self.problems.append(RowProblem(table, row, column, message))


def read_catalogue(
    data: bytes, filename: str, table: str | None = None, progress: Callable[[int, int], None] = lambda _done, _of: None
) -> CatalogueFile:
    """The devices of a CSV or XLSX file.

    Parameters
    ----------
    data : content of the file
    filename : its name; the ending tells the format
    table : table that a CSV file holds; without it the headings tell
    progress : told now and then how many rows of how many are read; what it raises ends the reading

    Examples
    --------
    >>> file = read_catalogue(b"type,kind,rated_current_a\\nX-10,fuse_gg,10 A\\n", "mine.csv")
    >>> print(file.problems[0], file.problems[0].message, sep=": ")
    fuses, row 2, rated_current_a: '10 A' has a unit in it; write 10, the unit is in the heading
    """
    file = CatalogueFile()
    if len(data) > MAXIMUM_BYTES:
        file.fail(f"holds {len(data) / 1e6:.1f} MB; {MAXIMUM_BYTES / 1e6:g} MB is the most")
    elif filename.lower().endswith(".csv"):
        _read_csv(file, data, table)
    elif filename.lower().endswith(".xlsx"):
        _read_xlsx(file, data)
    else:
        file.fail(f"{filename!r} is neither a .csv nor an .xlsx file")
    seen: dict[str, str] = {}
    of, done = sum(map(len, file.rows.values())), 0
    for name, columns in file.columns.items():
        named = [column_of(c, name) for c in columns]
        if words := lacking(name, named) if check_headings(name, named) else "":
            file.fail(words, name, 1)
            continue
        file.columns[name], file.rows[name] = _understood(name, columns, file.rows[name])
        wrong = check_headings(name, file.columns[name])
        if not wrong:
            file.devices[name], wrong = read_rows(name, _told(file.rows[name], done, of, progress), seen)
        done += len(file.rows[name])
        file.problems += wrong
    if not file.problems and not any(file.devices.values()):
        file.fail("holds no devices")
    return file


def _told(rows: Rows, done: int, of: int, progress: Callable[[int, int], None]) -> Iterator[tuple[int, dict[str, str]]]:
    """Rows one by one, with a word every hundredth."""
    for k, row in enumerate(rows):
        if k % 100 == 0:
            progress(done + k, of)
        yield row


def _understood(table: str, columns: list[str], rows: Rows) -> tuple[list[str], Rows]:
    """Headings as the columns that they mean, and the rows of a plain list completed, added columns last."""
    named = {c: column_of(c, table) for c in columns}
    own = list(named.values())
    meant = [(n, {named[c]: text for c, text in cells.items()}) for n, cells in rows]
    full = [(n, completed(table, cells, own)) for n, cells in meant if not cells.get("type", "").startswith(EXAMPLE)]
    added = [c for c in TABLES[table].model_fields if c not in named.values() and any(c in cells for _, cells in full)]
    return [*(named[c] for c in columns), *added], full


def _take(file: CatalogueFile, table: str, lines: Iterable[tuple[int, Sequence[str]]]) -> None:
    """Headings and rows of one table, the blank rows left out."""
    rows: Rows = []
    columns: list[str] | None = None
    for number, cells in lines:
        cut = [cell.strip() for cell in cells]
        while cut and not cut[-1]:
            cut.pop()
        if not cut:
            continue
        if len(cut) > MAXIMUM_COLUMNS:
            return file.fail(f"has {len(cut)} columns; {MAXIMUM_COLUMNS} is the most", table, number)
        if columns is None:
            columns = cut
            continue
        if len(rows) == MAXIMUM_ROWS:
            return file.fail(f"has more than {MAXIMUM_ROWS} rows", table, number)
        if len(cut) > len(columns):
            file.fail(f"has {len(cut)} cells under {len(columns)} headings", table, number)
        elif too_long := next((c for c, cell in zip(columns, cut, strict=False) if len(cell) > MAXIMUM_CELL), None):
            file.fail(f"is longer than {MAXIMUM_CELL} characters", table, number, too_long)
        else:
            rows.append((number, dict(zip(columns, cut, strict=False))))
    if columns is None:
        return file.fail("is empty", table)
    file.columns[table], file.rows[table] = columns, rows
    return None


def _read_csv(file: CatalogueFile, data: bytes, table: str | None) -> None:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        return file.fail(f"is not UTF-8 text (line {line}); save it as CSV UTF-8")
    if "\0" in text:
        return file.fail("is no text file")
    first = next((line for line in io.StringIO(text) if line.strip()), "")
    delimiter = max(",;\t", key=first.count)
    if table is None:
        table = _table_of(text, delimiter)
        if table is None:
            return file.fail("its headings are those of no table; take a template, or say which table it is")
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    try:
        # A quoted cell may hold line ends: the line a row begins on is the one after the last.
        lines, last = [], 0
        for cells in reader:
            if any(cells):
                lines.append((last + 1, [plain_text(x) for x in cells]))
            last = reader.line_num
            if (
                len(lines) > MAXIMUM_ROWS + 1
            ):  # the headings, and one more than may be: the rest need not be read to say so
                break
    except csv.Error as error:
        return file.fail(f"cannot be read as CSV: {error}", table, reader.line_num)
    return _take(file, table, lines)


def _table_of(text: str, delimiter: str) -> str | None:
    """The table whose headings a CSV text has, or nearly has; breakers and fuses differ by their kinds alone."""
    filled = (line.rstrip("\r\n") for line in io.StringIO(text) if line.strip())
    lines = [line.split(delimiter) for line in islice(filled, 2)]
    headings, first = ([cell.strip().strip('"') for cell in line] for line in (*lines, [], [])[:2])
    kind = dict(zip(headings, first, strict=False)).get("kind", "")
    of_kind = [name for name in TABLES if kind in answers(name, "kind")]
    known = [n for n in TABLES if n in of_kind or set(headings) & (TABLES[n].model_fields.keys() - {"type", "kind"})]
    exact = min(known, key=lambda n: (n not in of_kind, len(check_headings(n, headings))), default=None)
    return exact or table_of(headings)


def _read_xlsx(file: CatalogueFile, data: bytes) -> None:
    book = read_workbook(data)
    if book.problem:
        return file.fail(book.problem)
    titles = {g.title.lower(): g.table for g in table_guides()}
    for title, lines in book.sheets:
        name = title.strip().lower()
        if name == GUIDE_SHEET:
            continue
        table = name if name in TABLES else titles.get(name)
        if table is None:
            file.fail(f"sheet {title!r} is none of {', '.join(TABLES)}")
        elif table in file.columns:
            file.fail(f"the sheets hold {table} twice", table)
        else:
            _take(file, table, lines)
    # A sheet of the template that was left empty says nothing, unless all were.
    for table in [t for t, rows in file.rows.items() if not rows]:
        del file.rows[table], file.columns[table]
    return None


def template_csv(table: str) -> str:
    """A template of one table: its headings and three rows that show how it is filled in."""
    return _csv_of(table, example_rows(table))


def write_csv(table: str, devices: Iterable[Device]) -> str:
    """One table as CSV text."""
    return _csv_of(table, [d.cells() for d in devices])


def _csv_of(table: str, rows: Iterable[Mapping[str, str]]) -> str:
    columns = [c.name for c in _guide(table).columns]
    out = io.StringIO()
    writer = csv.DictWriter(out, columns, lineterminator="\n")
    writer.writeheader()
    writer.writerows(map(safe_row, rows))
    return out.getvalue()


def write_xlsx(devices: Mapping[str, Iterable[Device]]) -> bytes:
    """Every table as a sheet of its own, and a sheet that explains the columns; without devices a template with three example rows each."""
    from openpyxl import Workbook

    book = Workbook()
    explained = book.worksheets[0]
    explained.title = GUIDE_SHEET
    explained.append(["table", "column", "needed", "meaning"])
    for guide in table_guides():
        sheet = book.create_sheet(guide.table)
        sheet.append([c.name for c in guide.columns])
        _head(sheet, [max(len(c.name) + 2, 10) for c in guide.columns])
        rows = [d.cells() for d in devices.get(guide.table, ())] if devices else example_rows(guide.table)
        for cells in rows:
            sheet.append([_value(cells.get(c.name), c.number) for c in guide.columns])
        for c in guide.columns:
            explained.append([guide.table, c.name, "yes" if c.needed else "", c.meaning])
    _head(explained, [22, 26, 8, 110])
    book.move_sheet(explained, len(book.sheetnames) - 1)
    book.active = 0
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _value(text: str | None, number: bool) -> str | float | None:
    return float(text) if number and text is not None else text


def _head(sheet: Any, widths: Sequence[int]) -> None:
    from openpyxl.styles import Alignment, Font
    from openpyxl.utils import get_column_letter

    sheet.freeze_panes = "B2"
    for i, width in enumerate(widths, start=1):
        sheet.column_dimensions[get_column_letter(i)].width = width
        cell = sheet.cell(1, i)
        cell.font = Font(bold=True)
        cell.alignment = Alignment(wrap_text=True, vertical="top")


def _guide(table: str) -> TableGuide:
    return next(g for g in table_guides() if g.table == table)
