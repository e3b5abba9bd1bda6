"""The circuit diagrams of a starter as sheets of paper: its circuit and its design, on frames of its practice."""

from dataclasses import replace

from volmek.core.circuit.drawing.pen import Style
from volmek.core.circuit.drawing.references import Said
from volmek.core.circuit.drawing.sheets import circuit_sheets
from volmek.core.circuit.model.colours import school_of
from volmek.core.circuit.simulated import SimulatedStarter
from volmek.core.design import Design
from volmek.core.devices.said import picked_of, settings_as_read
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import StarterDocument
from volmek.core.results.sheets import PAPERS, Paper, Sheet, TitleBlock
from volmek.core.standards.cautions import SETTINGS
from volmek.core.standards.wording import in_practice
from volmek.core.views.circuit import style_of


def paper_of(document: StarterDocument, asked: str | None = None) -> Paper:
    """Paper that was asked for, else the one of the starter's practice.

    Raises
    ------
    ProblemError : there is no such paper.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> paper_of(parse({"tag": "A"})).title, paper_of(parse({"tag": "A", "practice": "nec"})).title
    ('A3', 'Tabloid, 11 × 17 in')
    """
    name = asked or ("tabloid" if document.practice == "nec" else "a3")
    if name not in PAPERS:
        raise ProblemError([Problem("paper", f"{name} is no sheet size: {', '.join(PAPERS)} are.")])
    return PAPERS[name]


def title_block(
    document: StarterDocument, job: str, board: str, revision: int, date: str, drawn_by: str = ""
) -> TitleBlock:
    """The title block of a starter's sheets.

    Parameters
    ----------
    job, board : where the starter belongs
    revision, date : of the state that is drawn
    drawn_by : empty where nobody said
    """
    practice = "North American" if document.practice == "nec" else "IEC"
    return TitleBlock(job, board, document.tag, document.service, practice, str(revision), date, drawn_by)


def starter_sheets(
    document: StarterDocument,
    it: SimulatedStarter,
    head: TitleBlock,
    *,
    paper: str | None = None,
    style: str | None = None,
) -> list[Sheet]:
    """All sheets of a starter's circuit diagrams.

    Parameters
    ----------
    document, it : the starter and its circuit
    head : words of the title block
    paper : ``a3``, ``a4``, ``tabloid`` or ``letter``; left out, that of the practice
    style : ``columns`` or ``ladder``; left out, that of the practice

    Raises
    ------
    ProblemError : unknown paper, or the circuit is too large for it.

    Examples
    --------
    >>> from volmek.core.catalogue.catalogue import reference_catalogue
    >>> from volmek.core.circuit.simulated import simulated
    >>> from volmek.core.examples import example_document
    >>> d = example_document()
    >>> [s.title for s in starter_sheets(d, simulated(d, reference_catalogue()), title_block(d, "", "", 1, ""))]
    ['Title sheet', 'Power circuit', 'Control circuit', 'Device list']
    """
    design = it.sized.design if it.sized else None

    def say(words: str) -> str:
        return in_practice(words, document.practice)

    said = {
        name: replace(
            s,
            device=say(s.device),
            setting=say(s.setting),
            beside=tuple(map(say, s.beside)),
            coil=tuple(map(say, s.coil)),
        )
        for name, s in _said(it, design).items()
    }
    facts = [
        (say(what), words if what in ("Tag", "Service") else say(words)) for what, words in _facts(document, it, design)
    ]
    how: Style = style_of(document, style)
    return circuit_sheets(it.circuit, how, school_of(document), paper_of(document, paper), head, said, facts, say)


def _said(it: SimulatedStarter, design: Design | None) -> dict[str, Said]:
    """Of every device what it is, what was picked, what is set; devices of the power circuit first, as they were sized."""
    rows: dict[str, Said] = {}
    line_up = {i.designation: i for i in design.line_up} if design else {}
    coils = {x.device for x in it.circuit.loads}
    for d in design.devices if design else []:
        item = line_up.get(d.designation)
        setting = ", ".join(f"{label} {value}" for label, value in settings_as_read(d))
        settings = tuple(x for x in item.setting.split(" · ") if x) if item else ()
        short = (item.rating.replace(" · ", " "),) if item else ()
        coiled = d.designation in coils  # its coil and its setting stand where the coil is drawn
        beside, coil = (short, settings[:2]) if coiled else ((*short, *settings), ())
        rows[d.designation] = Said(d.label, picked_of(d), setting, beside, tuple(x.removeprefix("coil ") for x in coil))
    for name, device in it.circuit.devices.items():
        if name not in rows:
            item = line_up.get(name)
            rating = ", ".join(x for x in (item.rating, item.setting) if x) if item else ""
            rows[name] = Said(
                device.label,
                rating.replace(" · ", ", "),
                _positions(device.positions),
                tuple(rating.split(", ")) if rating else (),
            )
    return rows


def _positions(positions: tuple[str, ...]) -> str:
    return f"positions {', '.join(positions)}" if positions else ""


def _facts(document: StarterDocument, it: SimulatedStarter, design: Design | None) -> list[tuple[str, str]]:
    """Facts of the starter on the title sheet."""
    c = it.circuit
    facts = [("Tag", document.tag), ("Service", document.service)]
    if design:
        ends = {i.key: ", ".join(x for x in (i.rating, i.setting) if x).replace(" · ", ", ") for i in design.line_up}
        facts += [("Starter", design.method), ("Supply", ends.get("supply", "")), ("Motor", ends.get("motor", ""))]
    else:
        facts.append(("Ratings", "not known yet: the plate does not suffice for sizing"))
    facts += [
        ("Control supply", c.source.words),
        ("Restart", c.restart),
        *(("Declared", words) for words in c.declared.values() if words != c.restart),
        *(("Changed by hand", words) for words in c.changed),
    ]
    facts.append(("Contacts", "drawn at rest, everything without voltage"))
    facts += [("Caution", words) for words in (design.cautions if design else SETTINGS)]
    return [(what, words) for what, words in facts if words]
