"""Words of the two practices, what the fields of a starter are called, and the terms of the trade by any of their names."""

import re
from dataclasses import dataclass
from functools import cache, lru_cache

from volmek.core.document.model import Practice
from volmek.data.loader import handbook


@dataclass(frozen=True, slots=True)
class FieldWords:
    """A field of the starter document in words.

    Attributes
    ----------
    field : path in the document
    label, north_american : what it is called; the second only where the vocabulary alone does not give it
    unit : empty where it has none
    what, where, usual : what it is, where it stands on the plate or at the machine, usual values; empty where that is plain
    """

    field: str
    label: str
    north_american: str
    unit: str
    what: str
    where: str
    usual: str


@dataclass(frozen=True, slots=True)
class Term:
    """A term of the trade.

    Attributes
    ----------
    term, also : its name, and the others it goes by
    says : what it is
    """

    term: str
    also: tuple[str, ...]
    says: str


@cache
def field_words() -> tuple[FieldWords, ...]:
    """Every field of the starter document in words.

    Examples
    --------
    >>> field_words()[1].label
    'Description'
    """
    return tuple(FieldWords(**row) for row in handbook("fields"))


@cache
def vocabulary() -> tuple[tuple[str, str], ...]:
    """Words of IEC practice with those of North American practice, the longer before the shorter."""
    pairs = [(row["iec"], row["north_american"]) for row in handbook("vocabulary")]
    return tuple(sorted(pairs, key=lambda pair: -len(pair[0])))


@cache
def _words() -> tuple[re.Pattern[str], dict[str, str]]:
    pairs = dict(vocabulary())
    return re.compile(rf"\b(?:{'|'.join(re.escape(w) for w in pairs)})\b", re.IGNORECASE), pairs


@lru_cache(maxsize=8192)
def in_practice(text: str, practice: Practice) -> str:
    """A text of the core in the words of a practice.

    Parameters
    ----------
    text : in IEC words
    practice : whose words are wanted

    Examples
    --------
    >>> in_practice("Star contactor, earthed control", "nec"), in_practice("Star contactor", "iec")
    ('Wye contactor, grounded control', 'Star contactor')
    """
    if practice == "iec":
        return text
    pattern, pairs = _words()

    def put(match: re.Match[str]) -> str:
        word = pairs[match[0].lower()]
        return word[0].upper() + word[1:] if match[0][0].isupper() else word

    return pattern.sub(put, text)


@cache
def glossary() -> tuple[Term, ...]:
    """Terms of the trade in alphabetical order."""
    found = [Term(row["term"], tuple(row["also"].split("|")), row["says"]) for row in handbook("glossary")]
    return tuple(sorted(found, key=lambda t: t.term.casefold()))


def find_terms(find: str = "") -> list[Term]:
    """Terms with every word asked for, those that are called so first.

    Parameters
    ----------
    find : any name of a term; nothing finds all

    Examples
    --------
    >>> [t.term for t in find_terms("energy coil")], find_terms("magnet")[0].term, find_terms("retaining")[0].term
    (['Coil A1-A2'], 'Contactor', 'Seal-in contact')
    """
    words = find.casefold().split()

    def rank(t: Term) -> int:
        names = [n.casefold() for n in (t.term, *t.also)]
        if find.strip().casefold() in names:
            return 0
        if all(any(w in n for n in names) for w in words):
            return 1
        return 2 if all(any(w in x for x in (*names, t.says.casefold())) for w in words) else 3

    return sorted((t for t in glossary() if rank(t) < 3), key=rank)
