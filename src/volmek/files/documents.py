"""Starter documents as JSON text: one document, or a list of them."""

import json
from typing import Any

from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import StarterDocument, parse


def read_documents(text: str) -> tuple[list[StarterDocument], bool]:
    """Starter documents from JSON text.

    Parameters
    ----------
    text : one document, or a list of documents

    Returns
    -------
    The documents, and whether the text was a list.

    Raises
    ------
    ProblemError : broken JSON with line and column; each field that is not as it must be, for a list with the
        number of the document in front, from 0.

    Examples
    --------
    >>> read_documents('{"tag": "A"}')[0][0].tag
    'A'
    """
    try:
        data = json.loads(text, parse_constant=_refuse)
    except json.JSONDecodeError as error:
        message = f"is not JSON: {error.msg} at line {error.lineno}, column {error.colno}"
        raise ProblemError([Problem("document", message)]) from None
    except RecursionError:
        raise ProblemError([Problem("document", "is nested too deeply to be a starter document")]) from None
    if not isinstance(data, list):
        return [parse(data)], False
    documents, problems = [], []
    for i, item in enumerate(data):
        try:
            documents.append(parse(item))
        except ProblemError as error:
            problems += numbered(error, i)
    if problems:
        raise ProblemError(problems)
    return documents, True


def numbered(error: ProblemError, i: int) -> list[Problem]:
    """The problems of document ``i`` of a list."""
    return [Problem(f"{i}.{p.field}", p.message, p.missing) for p in error.problems]


def _refuse(word: str) -> Any:
    raise ProblemError([Problem("document", f"{word} is not a number that can be computed with")])
