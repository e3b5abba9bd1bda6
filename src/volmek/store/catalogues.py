"""Catalogues of one's own as they are kept, and the catalogue that a board chooses from."""

import json
from collections.abc import Iterable, Mapping
from datetime import datetime
from functools import lru_cache

from sqlalchemy import Connection, Engine, delete, func, insert, select
from sqlalchemy.orm import Session

from volmek.core.catalogue.catalogue import Catalogue, reference_catalogue, side_by_side
from volmek.core.catalogue.device_types import TABLES, Device
from volmek.core.document.errors import Problem, ProblemError
from volmek.store.models import Board, CatalogueDevice, Preset, now
from volmek.store.models import Catalogue as CatalogueRow

#: Number of the shipped catalogue, which is kept in no table.
SHIPPED = 0
Tables = Mapping[str, Iterable[Device]]


def read_devices(cells: Mapping[str, Iterable[Mapping[str, str]]]) -> dict[str, list[Device]]:
    """Devices from cells that were checked when they were written."""
    return {table: [TABLES[table].model_validate(row) for row in rows] for table, rows in cells.items()}


@lru_cache(maxsize=512)
def with_kept(catalogue: Catalogue, text: str, unchanged: bool) -> Catalogue:
    """A catalogue with the devices that a starter keeps, from their JSON text: asked for at every keystroke."""
    return catalogue.keeping(read_devices(json.loads(text)), unchanged=unchanged)


@lru_cache(maxsize=4096)
def _row_text(device: Device) -> str:
    return json.dumps(device.cells(), ensure_ascii=False)


def kept_text(devices: Tables) -> str:
    """Devices as the JSON text that ``with_kept`` reads."""
    tables = (f'"{table}":[{",".join(map(_row_text, rows))}]' for table, rows in devices.items())
    return "{" + ",".join(tables) + "}"


def numbers_of(text: str) -> tuple[int, ...]:
    """The catalogue numbers of a board."""
    return tuple(map(int, text.split()))


def cells_of(session: Session, catalogue_id: int) -> dict[str, list[dict[str, str]]]:
    """Rows of a catalogue as cells by table, in their order."""
    rows: dict[str, list[dict[str, str]]] = {}
    query = select(CatalogueDevice).where(CatalogueDevice.catalogue_id == catalogue_id).order_by(CatalogueDevice.id)
    for row in session.scalars(query):
        rows.setdefault(row.kind, []).append(row.cells)
    return rows


@lru_cache(maxsize=32)
def _read(engine: Engine, catalogue_id: int, name: str, changed: datetime) -> Catalogue:
    """A catalogue as it was at its last change; read again only when it changes."""
    with Session(engine) as session:
        return Catalogue.of(name, read_devices(cells_of(session, catalogue_id)))


@lru_cache(maxsize=32)
def _together(catalogues: tuple[Catalogue, ...]) -> Catalogue:
    return side_by_side(catalogues)


def catalogue_for(connection: Connection | Session, engine: Engine, numbers: str) -> Catalogue:
    """Catalogue of a board with these catalogue numbers; one that is gone is left out.

    Parameters
    ----------
    connection : to look up when each was changed
    engine : to read a catalogue that has changed
    numbers : as ``Board.catalogues`` holds them
    """
    wanted = numbers_of(numbers)
    if wanted == (SHIPPED,):
        return reference_catalogue()
    query = select(CatalogueRow.id, CatalogueRow.name, CatalogueRow.changed).where(CatalogueRow.id.in_(wanted))
    found = {id: _read(engine, id, name, changed) for id, name, changed in connection.execute(query)}
    found[SHIPPED] = reference_catalogue()
    return _together(tuple(found[i] for i in wanted if i in found) or (reference_catalogue(),))


def create_catalogue(session: Session, name: str) -> CatalogueRow:
    """An empty catalogue.

    Raises
    ------
    ProblemError : there is one of this name.
    """
    taken = session.scalar(select(CatalogueRow.id).where(func.lower(CatalogueRow.name) == name.lower()))
    if taken is not None or name.lower() == reference_catalogue().name.lower():
        raise ProblemError([Problem("name", f"there is a catalogue {name!r} already")])
    row = CatalogueRow(name=name)
    session.add(row)
    session.flush()
    return row


def put_devices(session: Session, catalogue: CatalogueRow, devices: Tables, *, remove_others: bool) -> None:
    """Put devices into a catalogue; those of a type that is there take its place.

    Parameters
    ----------
    session : in a write transaction, so that all go in or none
    devices : checked devices by table
    remove_others : in each table given, take out the types that are not among them
    """
    for table, rows in devices.items():
        new = {d.type: d for d in rows}
        old = delete(CatalogueDevice).where(CatalogueDevice.catalogue_id == catalogue.id)
        if remove_others:
            session.execute(old.where(CatalogueDevice.kind == table))
        types = list(new)
        for start in range(0, len(types), 500):  # SQLite takes a limited number of values in one statement
            session.execute(old.where(CatalogueDevice.type.in_(types[start : start + 500])))
        if new:
            values = [
                {"catalogue_id": catalogue.id, "kind": table, "type": d.type, "cells": d.cells()} for d in new.values()
            ]
            session.execute(insert(CatalogueDevice), values)
    catalogue.changed = now()


def remove_catalogue(session: Session, catalogue: CatalogueRow) -> None:
    """Take a catalogue away; its boards go on with their others, or with the shipped one."""
    for board in session.scalars(select(Board)):
        left = [str(i) for i in numbers_of(board.catalogues) if i != catalogue.id]
        board.catalogues = " ".join(left) or str(SHIPPED)
    session.delete(catalogue)


def boards_using(session: Session) -> dict[int, list[str]]:
    """Names of the boards that choose from each catalogue."""
    using: dict[int, list[str]] = {}
    for board in session.scalars(select(Board).order_by(Board.id)):
        for number in numbers_of(board.catalogues):
            using.setdefault(number, []).append(board.name)
    return using


def chosen_text(session: Session, numbers: list[int]) -> str:
    """Which catalogues a board chooses from, the first one first, as a board keeps it.

    Raises
    ------
    ProblemError : none is given, one twice, or one that there is not.
    """
    there = {SHIPPED, *session.scalars(select(CatalogueRow.id))}
    problem = (
        "choose at least one catalogue"
        if not numbers
        else "a catalogue is chosen twice"
        if len(set(numbers)) < len(numbers)
        else next((f"there is no catalogue {n}" for n in numbers if n not in there), None)
    )
    if problem:
        raise ProblemError([Problem("catalogues", problem)])
    return " ".join(map(str, numbers))


def save_preset(session: Session, name: str, parts: dict[str, object]) -> Preset:
    """Keep parts of a document under a name; one of the same name is replaced."""
    preset = session.scalar(select(Preset).where(func.lower(Preset.name) == name.lower())) or Preset()
    preset.name, preset.parts, preset.saved = name, parts, now()
    session.add(preset)
    session.flush()
    return preset
