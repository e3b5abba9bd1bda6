"""Usual machines, symbols, and the tables and schools of practice."""

from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field

from volmek.core.results.drawing import Drawing
from volmek.core.standards.handbook import School, TablePage, UsualLoad, find_schools, find_tables, usual_loads
from volmek.core.standards.wording import FieldWords, Term, field_words, find_terms, glossary, vocabulary
from volmek.core.symbols import symbols
from volmek.web.common import operation_id
from volmek.web.schemas import Output, ProblemsOut

bp = APIBlueprint("handbook", __name__, url_prefix="/api", operation_id_callback=operation_id)


class LoadsOut(Output):
    """Usual machines."""

    loads: list[UsualLoad]


class SymbolsOut(Output):
    """Every symbol by its name."""

    symbols: dict[str, Drawing]


class HandbookQuery(BaseModel):
    """Search in the tables and practices."""

    find: str = Field("", max_length=100, description="words, each also found by its other names")


class HandbookOut(Output):
    """Tables and schools that hold every word asked for."""

    tables: list[TablePage]
    schools: list[School]


class WordsOut(Output):
    """Names of fields and their place on the plate, words that differ by practice, and the terms of the trade."""

    fields: list[FieldWords]
    vocabulary: list[tuple[str, str]]
    glossary: list[Term]


@bp.get("/words", responses={200: WordsOut})
def get_words() -> WordsOut:
    """Fields, vocabulary and glossary: asked for once by a page."""
    return WordsOut.model_construct(
        fields=list(field_words()), vocabulary=list(vocabulary()), glossary=list(glossary())
    )


class GlossaryOut(Output):
    """Terms that were looked for."""

    terms: list[Term]


@bp.get("/glossary", responses={200: GlossaryOut, 422: ProblemsOut})
def read_glossary(query: HandbookQuery) -> GlossaryOut:
    """Terms of the trade, found by any of their names."""
    return GlossaryOut.model_construct(terms=find_terms(query.find))


@bp.get("/loads", responses={200: LoadsOut})
def list_loads() -> LoadsOut:
    """Usual machines in a fitter's words, with the torque they ask for."""
    return LoadsOut.model_construct(loads=list(usual_loads()))


@bp.get("/symbols", responses={200: SymbolsOut})
def get_symbols() -> SymbolsOut:
    """The drawings that designs refer to by name."""
    return SymbolsOut.model_construct(symbols=symbols())


@bp.get("/tables", responses={200: HandbookOut, 422: ProblemsOut})
def read_tables(query: HandbookQuery) -> HandbookOut:
    """The standards' tables and the schools, searched in the words that fitters use."""
    return HandbookOut(tables=find_tables(query.find), schools=find_schools(query.find))
