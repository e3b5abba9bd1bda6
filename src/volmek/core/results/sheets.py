"""Sheets of a drawing: paper with its frame and zones, title block, legend, tables; symbols as blocks, marks on layers."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from volmek.core.results.drawing import Drawing, Shape, line, moved, rect, text

#: Millimetres to a unit of a drawing.
MM = 0.25
#: Width of an average letter over the size of the text.
LETTER = 0.52
#: Height and width of the title block, distance of the frame from the edge, and the band of the zones inside that.
TITLE_HEIGHT, TITLE_WIDTH, EDGE, BAND = 88.0, 640.0, 40.0, 20.0


@dataclass(frozen=True, slots=True)
class Paper:
    """A sheet size, landscape.

    Attributes
    ----------
    name : as it is asked for
    title : as it is said
    width_mm, height_mm : of the trimmed sheet
    binding_mm : margin at the left, for filing
    columns, rows : zones of the frame
    backwards : zones are counted from the lower right corner (ASME Y14.1), else from the upper left (ISO 5457)

    References
    ----------
    ISO 216 and ISO 5457 for A3 and A4; ASME Y14.1 for letter (A) and tabloid (B).
    """

    name: str
    title: str
    width_mm: float
    height_mm: float
    binding_mm: float
    columns: int
    rows: int
    backwards: bool = False

    @property
    def width(self) -> float:
        """In units of a drawing."""
        return self.width_mm / MM

    @property
    def height(self) -> float:
        """In units of a drawing."""
        return self.height_mm / MM

    @property
    def frame(self) -> tuple[float, float, float, float]:
        """Left, top, right and lower edge of the frame."""
        return self.binding_mm / MM, EDGE, self.width - EDGE, self.height - EDGE

    @property
    def area(self) -> tuple[float, float, float, float]:
        """Left, top, width and height of what the frame leaves for drawing above the title block."""
        left, top, right, low = self.frame
        return left + 8, top + 8, right - left - 16, low - top - TITLE_HEIGHT - 12

    def zone(self, x: float, y: float) -> str:
        """Zone of a point of the sheet.

        Examples
        --------
        >>> PAPERS["a3"].zone(85, 45), PAPERS["a3"].zone(1600, 1100), PAPERS["tabloid"].zone(1600, 1000)
        ('A1', 'F8', 'A1')
        """
        left, top, right, low = self.frame
        column = min(max(int((x - left) / (right - left) * self.columns), 0), self.columns - 1)
        row = min(max(int((y - top) / (low - top) * self.rows), 0), self.rows - 1)
        return f"{self._letter(row)}{self._number(column)}"

    def _number(self, column: int) -> int:
        return self.columns - column if self.backwards else column + 1

    def _letter(self, row: int) -> str:
        return "ABCDEFGH"[self.rows - 1 - row if self.backwards else row]


PAPERS = {
    p.name: p
    for p in (
        Paper("a3", "A3", 420, 297, 20, 8, 6),
        Paper("a4", "A4", 297, 210, 20, 6, 4),
        Paper("tabloid", "Tabloid, 11 × 17 in", 431.8, 279.4, 15, 8, 4, backwards=True),
        Paper("letter", "Letter, 8.5 × 11 in", 279.4, 215.9, 15, 6, 4, backwards=True),
    )
}


@dataclass(frozen=True, slots=True)
class Mark:
    """A shape on a layer; a conductor has its colour.

    Attributes
    ----------
    layer : ``FRAME``, ``TITLE``, ``TEXT``, ``TAGS``, ``TERMINALS``, ``WIRE_NUMBERS``, ``REFERENCES``, ``WIRES``, ``PROTECTIVE``,
        ``LINKS``, ``TABLE``
    """

    shape: Shape
    layer: str
    conductor: str = ""


@dataclass(frozen=True, slots=True)
class Symbol:
    """A symbol as a block: shapes about its own point, its position and size.

    Attributes
    ----------
    name : of the block
    tag : designation of the device
    part : contact, pole or load that it shows
    """

    name: str
    tag: str
    part: str
    x: float
    y: float
    scale: float
    shapes: tuple[Shape, ...]


@dataclass(frozen=True, slots=True)
class TitleBlock:
    """Contents of the title block of every sheet.

    Attributes
    ----------
    job, board, tag, service : whose drawing it is
    practice : symbols and sheet size follow it
    revision, date : state of the starter
    drawn_by : empty where nobody said; then there is room to sign
    """

    job: str
    board: str
    tag: str
    service: str
    practice: str
    revision: str
    date: str
    drawn_by: str = ""


@dataclass
class Sheet:
    """One sheet of a set.

    Attributes
    ----------
    number : from 1 on
    title : what it shows
    description : the same in a sentence, for those who cannot see it
    """

    number: int
    title: str
    description: str
    paper: Paper
    marks: list[Mark] = field(default_factory=list)
    symbols: list[Symbol] = field(default_factory=list)

    def put(self, layer: str, *shapes: Shape) -> None:
        """Add shapes to a layer."""
        self.marks += [Mark(s, layer) for s in shapes]

    def drawn(self) -> Iterator[Mark]:
        """All marks, those of the symbols too."""
        yield from self.marks
        for s in self.symbols:
            for shape in s.shapes:
                yield Mark(moved(shape, s.x, s.y, s.scale), "SYMBOLS")

    def drawing(self) -> Drawing:
        """The sheet as plain shapes."""
        return Drawing(self.paper.width, self.paper.height, self.description, [m.shape for m in self.drawn()])


def width_of(words: str, size: float) -> float:
    """About how wide a text is.

    Examples
    --------
    >>> width_of("K1", 10)
    10.4
    """
    return LETTER * size * len(words)


def wrapped(words: str, width: float, size: float) -> list[str]:
    """A text in lines that are not wider than asked; a word that is wider than a line is cut.

    Examples
    --------
    >>> wrapped("stays off after a supply failure", 80, 9)
    ['stays off after a', 'supply failure']
    """
    letters = max(int(width / (LETTER * size)), 4)
    lines: list[str] = []
    for word in words.split():
        while len(word) > letters:
            lines.append(word[:letters])
            word = word[letters:]
        if lines and len(lines[-1]) + 1 + len(word) <= letters:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    return lines


def frame(sheet: Sheet, head: TitleBlock, of: int, legend: Sequence[tuple[str, str]] = ()) -> None:
    """Frame with zones, title block, and the legend of the conductors beside it.

    Parameters
    ----------
    sheet : that gets them
    head : words of the title block
    of : number of sheets in the set
    legend : colour and what it stands for

    References
    ----------
    ISO 5457 (frame and zones), ISO 7200 (fields of the title block), ASME Y14.1.
    """
    p = sheet.paper
    left, top, right, low = p.frame
    sheet.put("FRAME", rect(left, top, right - left, low - top, weight="heavy"))
    outer = (left - BAND, top - BAND, right + BAND, low + BAND)
    sheet.put("FRAME", rect(outer[0], outer[1], outer[2] - outer[0], outer[3] - outer[1], weight="hair"))
    for column in range(p.columns):
        x = left + (right - left) * column / p.columns
        middle = x + (right - left) / p.columns / 2
        for y, edge in ((top, outer[1]), (low, outer[3])):
            if column:
                sheet.put("FRAME", line(x, y, x, edge, weight="hair"))
            sheet.put("FRAME", text(middle, (y + edge) / 2 + 4, str(p._number(column)), 11))
    for row in range(p.rows):
        y = top + (low - top) * row / p.rows
        middle = y + (low - top) / p.rows / 2
        for x, edge in ((left, outer[0]), (right, outer[2])):
            if row:
                sheet.put("FRAME", line(x, y, edge, y, weight="hair"))
            sheet.put("FRAME", text((x + edge) / 2, middle + 4, p._letter(row), 11))
    _title_block(sheet, head, of)
    _legend(sheet, legend)


def _title_block(sheet: Sheet, head: TitleBlock, of: int) -> None:
    left, _, right, low = sheet.paper.frame
    y, half = low - TITLE_HEIGHT, TITLE_HEIGHT / 2
    x = right - TITLE_WIDTH
    sheet.put("TITLE", line(left, y, right, y), line(x, y, x, low), line(x, y + half, right, y + half, weight="hair"))
    rows = (
        (("Title", f"{sheet.title}, {head.service}" if head.service else sheet.title, 250.0), ("Board", head.board, 210.0), ("Job", head.job, 180.0)),
        (("Tag", head.tag, 120.0), ("Practice", head.practice, 120.0), ("Revision", head.revision, 80.0), ("Date", head.date, 110.0),
         ("Drawn by", head.drawn_by, 120.0), ("Sheet", f"{sheet.number} of {of}", 90.0)),
    )  # fmt: skip
    for k, cells in enumerate(rows):
        at = x
        for caption, words, width in cells:
            if at > x:
                sheet.put("TITLE", line(at, y + half * k, at, y + half * (k + 1), weight="hair"))
            sheet.put("TITLE", text(at + 5, y + half * k + 10, caption, 7.5, "start"))
            sheet.put("TITLE", *fitted(words, at + 5, y + half * k + 13, width - 10, half - 15))
            at += width


def fitted(words: str, x: float, y: float, width: float, height: float, largest: float = 13.0) -> Iterator[Shape]:
    """A text as large as a field allows, in one line or more.

    Parameters
    ----------
    x, y, width, height : of the field
    largest : size of the text that is enough
    """
    for size in (largest, 12.0, 11.0, 10.0, 9.0, 8.0, 7.0, 6.0, 5.0):
        lines = wrapped(words, width, size)
        if len(lines) * size * 1.15 <= height and all(width_of(w, size) <= width for w in words.split()):
            break
    for k, words in enumerate(lines):
        yield text(x, y + size * (0.95 + 1.15 * k), words, size, "start")


def _legend(sheet: Sheet, legend: Sequence[tuple[str, str]]) -> None:
    left, _, right, low = sheet.paper.frame
    if not legend:
        return
    y, room = low - TITLE_HEIGHT, right - left - TITLE_WIDTH
    sheet.put("TITLE", text(left + 5, y + 10, "Conductors", 7.5, "start"))
    rows = 4
    width = room / max(-(-len(legend) // rows), 1)
    for k, (colour, what) in enumerate(legend):
        at, at_y = left + 6 + width * (k // rows), y + 24 + 18 * (k % rows)
        sheet.marks.append(Mark(line(at, at_y - 3, at + 24, at_y - 3, weight="heavy"), "WIRES", colour))
        words = f"{colour}: {what}"
        size = min(9.0, (width - 40) / (LETTER * len(words)))
        sheet.put("TITLE", text(at + 30, at_y, words, size, "start"))


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a table: heading and share of the width."""

    heading: str
    share: float


def table(
    columns: Sequence[Column],
    rows: Iterable[Sequence[str]],
    left: float,
    top: float,
    width: float,
    height: float,
    size: float = 10,
) -> list[list[Shape]]:
    """A table, cut where a sheet is full: the shapes of each part, every one with its headings.

    Parameters
    ----------
    left, top, width, height : room on each sheet
    size : of the text

    Raises
    ------
    ValueError : one row alone is higher than the room.
    """
    total = sum(c.share for c in columns)
    widths = [width * c.share / total for c in columns]
    pitch = size * 1.25

    def cells(row: Sequence[str], y: float) -> list[Shape]:
        found, x = [], left
        for words, wide in zip(row, widths, strict=True):
            for k, words_in_line in enumerate(wrapped(words, wide - 10, size)):
                found.append(text(x + 4, y + pitch * (k + 0.95), words_in_line, size, "start"))
            x += wide
        return found

    def high(row: Sequence[str]) -> float:
        return pitch * max([len(wrapped(w, wide - 10, size)) for w, wide in zip(row, widths, strict=True)] + [1]) + 5

    parts: list[list[Shape]] = []
    y = 0.0
    for row in rows:
        if not parts or y + high(row) > top + height:
            parts.append(
                [*cells([c.heading for c in columns], top), line(left, top + pitch + 4, left + width, top + pitch + 4)]
            )
            y = top + pitch + 6
            if y + high(row) > top + height:
                raise ValueError("a row is higher than the sheet")
        parts[-1] += cells(row, y)
        y += high(row)
        parts[-1].append(line(left, y - 2, left + width, y - 2, weight="hair"))
    return parts
