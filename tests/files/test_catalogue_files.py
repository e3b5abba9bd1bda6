"""Catalogue files: what is written reads back, and every wrong cell is found at its row and column."""

import io
import zipfile
from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.catalogue.device_types import TABLES
from volmek.files.catalogue_files import CatalogueFile, read_catalogue, write_csv, write_xlsx

R = reference_catalogue()
FUSES = "type,kind,rated_current_a,icu_400_ka\n"


def book(sheets: dict[str, list[list[object]]]) -> bytes:
    made = Workbook()
    for title, rows in sheets.items():
        sheet = made.create_sheet(title)
        for row in rows:
            sheet.append(row)
    made.remove(made.worksheets[0])
    out = io.BytesIO()
    made.save(out)
    return out.getvalue()


def said(file: CatalogueFile) -> str:
    return "\n".join(f"{p}: {p.message}" for p in file.problems)


@pytest.mark.parametrize("table", TABLES)
def test_a_table_written_as_csv_reads_back(table: str) -> None:
    file = read_catalogue(write_csv(table, R.tables[table]).encode(), "r.csv")
    assert not file.problems
    assert {d.type: d for d in file.devices[table]} == {d.type: d for d in R.tables[table]}


def test_a_whole_catalogue_written_as_xlsx_reads_back() -> None:
    file = read_catalogue(write_xlsx(R.tables), "r.XLSX")
    assert not file.problems
    for table, devices in R.tables.items():
        assert {d.type: d for d in file.devices[table]} == {d.type: d for d in devices}


def test_the_template_explains_its_columns_and_alone_holds_no_devices() -> None:
    data = write_xlsx({})
    names = load_workbook(io.BytesIO(data)).sheetnames
    assert names == [*TABLES, "columns"]
    assert said(read_catalogue(data, "t.xlsx")) == "file: holds no devices"


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_any_usual_delimiter_byte_order_mark_and_blank_line_will_do(delimiter: str) -> None:
    text = FUSES + "\nA-1,fuse_gg,10,100\n,,,\nA-2,fuse_am,16,100\n"
    file = read_catalogue(b"\xef\xbb\xbf" + text.replace(",", delimiter).encode(), "x.csv")
    assert [d.type for d in file.devices["fuses"]] == ["A-1", "A-2"]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (FUSES + "A,fuse_gg,10 A,100\n", "fuses, row 2, rated_current_a: '10 A' has a unit"),
        (FUSES + "A,fuse_gg,10,100\nA,fuse_gg,16,100\n", "fuses, row 3, type: 'A' occurs twice"),
        (FUSES + "A,fuse_gg,10,100,7\n", "fuses, row 2: has 5 cells under 4 headings"),
        (FUSES + 'A,fuse_gg,10,1\n"B\nb",fuse_gg,10,1\nC,fuse_gg,x,1\n', "fuses, row 5, rated_current_a"),
        (FUSES + 'A,"fuse_gg,10\n', "cannot be read as CSV"),
        (FUSES + "A,fuse_gg,=5+5,100\n", "holds a formula"),
        (FUSES + f"A,fuse_gg,10,{'9' * 600}\n", "longer than 500"),
        ("type,kind,rated_curent_a\nA,fuse_gg,10\n", "row 1, rated_curent_a: is not a column"),
        ("type,kind,rated_current_a,rated_current_a\nA,fuse_gg,10,10\n", "is in the headings twice"),
        ("one,two\n1,2\n", "its headings are those of no table"),
        ("", "headings are those of no table"),
        (FUSES, "holds no devices"),
    ],
)
def test_what_is_wrong_in_a_csv_is_said_with_its_row_and_column(text: str, words: str) -> None:
    file = read_catalogue(text.encode(), "x.csv")
    assert words in said(file)


@pytest.mark.parametrize(
    ("data", "name", "words"),
    [
        (b"\xff\xfe\x00", "x.csv", "is not UTF-8 text (line 1)"),
        (b"a\0b", "x.csv", "no text file"),
        (b"hello", "x.xlsx", "is not an XLSX file"),
        (b"", "x.xlsx", "is not an XLSX file"),
        (b"hello", "x.pdf", "neither a .csv nor an .xlsx"),
        (b"x" * 10_000_001, "x.csv", "10.0 MB; 10 MB is the most"),
    ],
)
def test_a_file_that_cannot_be_read_says_why(data: bytes, name: str, words: str) -> None:
    assert words in said(read_catalogue(data, name))


def test_a_small_file_that_unpacks_to_a_huge_one_is_refused_unopened() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        archive.writestr("xl/workbook.xml", b" " * 210_000_000)
    assert "unpacks to 210 MB" in said(read_catalogue(out.getvalue(), "bomb.xlsx"))


def test_what_is_wrong_in_a_sheet_is_said_with_its_row_and_column() -> None:
    headings: list[object] = ["type", "kind", "rated_current_a"]
    rows: list[list[object]] = [headings, ["A", "fuse_gg", "=5+5"], [None, None, None], ["B", "fuse_gg", date(2026, 1, 2)], ["C", "fuse_gg", "10 A"]]  # fmt: skip
    file = read_catalogue(book({"Fuses": rows, "notes": [["x"]]}), "x.xlsx")
    text = said(file)
    for words in ("row 2, rated_current_a: holds a formula", "row 4, rated_current_a: '2026-01-02", "row 5, rated_current_a: '10 A' has a unit", "sheet 'notes' is none of"):  # fmt: skip
        assert words in text
    good = read_catalogue(book({"fuses": [headings, ["A", "fuse_gg", 10], [17, "fuse_gg", 12.5]]}), "x.xlsx")
    assert [(d.type, d.cells()["rated_current_a"]) for d in good.devices["fuses"]] == [("A", "10"), ("17", "12.5")]


@given(st.binary(max_size=400), st.sampled_from(["x.csv", "x.xlsx"]))
@settings(deadline=None)
def test_no_bytes_break_the_reader(data: bytes, name: str) -> None:
    file = read_catalogue(data, name)
    assert file.problems or file.devices


@given(st.text(max_size=300))
@settings(deadline=None)
def test_no_text_breaks_the_reader(text: str) -> None:
    file = read_catalogue((FUSES + text).encode(errors="ignore"), "x.csv", "fuses")
    assert file.problems or file.devices
