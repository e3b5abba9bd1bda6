"""Workbooks of each bad kind: one sentence each, soon, and never a fault of the server."""

import io
import re
import time
import zipfile
from collections.abc import Callable

import pytest
from flask.testing import FlaskClient

from databases import ON_FILES
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.files import workbook
from volmek.files.catalogue_files import read_catalogue, write_xlsx

GOOD = write_xlsx({"fuses": reference_catalogue().tables["fuses"][:5]})
Parts = dict[str, bytes]


def packed(change: Callable[[Parts], None]) -> bytes:
    """A good workbook with something changed in it."""
    with zipfile.ZipFile(io.BytesIO(GOOD)) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    change(parts)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    return out.getvalue()


def without(name: str) -> bytes:
    return packed(lambda parts: parts.pop(name) and None)


def sheet(old: bytes, new: bytes, name: str = "xl/worksheets/sheet1.xml") -> bytes:
    def change(parts: Parts) -> None:
        assert old in parts[name], parts[name][:400]
        parts[name] = parts[name].replace(old, new, 1)

    return packed(change)


def in_sheet(rows: bytes) -> bytes:
    return sheet(b"</sheetData>", rows + b"</sheetData>")


BOMB = (
    b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><sst>&b;</sst>'
)
MANY = b"<sst>" + b"<si><t>x</t></si>" * 400_000 + b"</sst>"


def shared(data: bytes) -> bytes:
    return packed(lambda parts: parts.__setitem__("xl/sharedStrings.xml", data))


KINDS: dict[str, tuple[bytes, str]] = {
    "no zip at all": (b"PK not really", "not an XLSX file"),
    "cut in the middle": (GOOD[: len(GOOD) // 2], "not an XLSX file"),
    "without its workbook": (without("xl/workbook.xml"), "not an XLSX file"),
    "without types": (without("[Content_Types].xml"), "not an XLSX file"),
    "without a sheet": (without("xl/worksheets/sheet1.xml"), "not an XLSX file"),
    "broken XML": (sheet(b"</sheetData>", b"</sheetDat"), "not an XLSX file"),
    "a number that is none": (in_sheet(b'<row r="90"><c r="A90"><v>12..5</v></c></row>'), "not an XLSX file"),
    "a text that is not there": (in_sheet(b'<row r="90"><c r="A90" t="s"><v>999999</v></c></row>'), "not an XLSX file"),
    "a row that is no number": (in_sheet(b'<row r="x"><c r="A90"><v>1</v></c></row>'), "not an XLSX file"),
    "a row far down": (in_sheet(b'<row r="1048576"><c r="A1048576"><v>1</v></c></row>'), "row 1048576"),
    "a column far out": (in_sheet(b'<row r="90"><c r="XFD90"><v>1</v></c></row>'), "column XFD"),
    "entities of its own": (shared(BOMB), "entities"),
    "too many texts": (shared(MANY), "texts"),
    "too many cells": (in_sheet(b'<row r="90">' + b"<c><v>1</v></c>" * 600_000 + b"</row>"), "cells"),
    "unpacks too large": (packed(lambda parts: parts.__setitem__("xl/media/x.png", bytes(80_000_000))), "unpacks to"),
}


@pytest.mark.parametrize("kind", list(KINDS))
def test_a_bad_workbook_is_one_sentence(kind: str) -> None:
    data, words = KINDS[kind]
    began = time.monotonic()
    file = read_catalogue(data, "devices.xlsx")
    assert file.problems and words in file.problems[0].message, file.problems[:3]
    assert not file.devices and re.fullmatch(r"[^\n]{10,200}", file.problems[0].message)
    assert time.monotonic() - began < 60


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"type,kind,rated_current_a\n" + b"X,fuse_gg,1\n" * 800_000, "more than 20000 rows"),
        (b"type,kind\n" + b"\n" * 9_000_000, ""),
        (b"type" + b",x" * 4_000_000 + b"\n", "columns"),
        (b'"' + b"x" * 9_000_000, "cannot be read as CSV"),
    ],
    ids=["too many rows", "nothing but lines", "too many columns", "a quote without an end"],
)
def test_a_text_file_that_is_too_much_is_said_soon(data: bytes, words: str) -> None:
    file = read_catalogue(data, "devices.csv", "fuses")
    assert file.problems and words in file.problems[0].message, file.problems[:2]


def test_a_good_one_is_read_as_before() -> None:
    assert [d.type for d in read_catalogue(GOOD, "d.xlsx").devices["fuses"]] == [d.type for d in reference_catalogue().tables["fuses"][:5]]  # fmt: skip


def test_one_that_takes_too_long_is_ended() -> None:
    assert "takes more than 0.01 s" in workbook.read_workbook(GOOD, wall_s=0.01).problem


@ON_FILES
def test_over_the_api_too(client: FlaskClient) -> None:
    made = client.post("/api/catalogues", json={"name": "Store room"}).get_json()["id"]
    for kind in ("cut in the middle", "broken XML", "a row far down", "entities of its own"):
        form = {"file": (io.BytesIO(KINDS[kind][0]), "x.xlsx"), "commit": "true"}
        answer = client.post(f"/api/catalogues/{made}/import", data=form)
        assert answer.status_code == 422 and KINDS[kind][1] in answer.get_json()["problems"][0]["message"], kind
