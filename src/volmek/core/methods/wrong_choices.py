"""Choices that this motor or supply forbids: each is said at its field, and the design goes on without it."""

from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument, StarterType, method_of
from volmek.core.installation.supply import supply_problems, supply_system
from volmek.core.methods import METHODS
from volmek.core.methods.front import KINDS, usual_kinds
from volmek.data.loader import standard

PRACTICES = {"iec": "IEC", "nec": "North American"}


def without_wrong_choices(document: StarterDocument) -> tuple[StarterDocument, tuple[Problem, ...]]:
    """The document to compute with, and what was wrong with the choices in it.

    Parameters
    ----------
    document : as the user decided

    Returns
    -------
    A choice that leaves nothing to compute with is replaced by the usual one; one that can be computed stays. Both are told.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> d, problems = without_wrong_choices(parse({"tag": "A", "motor": {"leads": 3}, "starter": {"type": "star_delta"}}))
    >>> d.starter.type, [p.field for p in problems]
    ('star_delta', ['motor.leads'])
    """
    found: list[Problem] = []
    if problems := supply_problems(document):
        found += problems
        fields = dict.fromkeys(p.field.partition(".")[2] for p in problems)
        document = document.model_copy(update={"supply": document.supply.model_copy(update=fields)})
    s, m = document.supply, document.motor
    method = METHODS[method_of(document)]
    single, by_hand = method_of(document).startswith("single_phase"), method_of(document) == "manual"
    if single != (m.phases == 1) or (by_hand and document.practice == "nec"):
        usual: StarterType = "single_phase_direct" if m.phases == 1 else "direct_on_line"
        how = f"a motor for {'one phase' if m.phases == 1 else 'three phases'}"
        why = (
            f"{how} needs a method of its own"
            if single != (m.phases == 1)
            else "a manual starter is sized here in IEC practice only"
        )
        words = f"{why}; {METHODS[usual].label.lower()} is computed in place of {method.label.lower()}"
        found.append(Problem("starter.type", words))
        document = document.model_copy(update={"starter": document.starter.model_copy(update={"type": usual})})
        method = METHODS[usual]
    asked = document.protection.device
    usable = asked is None or (
        KINDS[asked].practice == document.practice
        and (method_of(document) != "manual" or KINDS[asked].protects_overload)
    )
    if asked and not usable:
        usual_kind = KINDS[usual_kinds(document)[0]].words
        practice = KINDS[asked].practice
        why = (
            f"it belongs to {PRACTICES[practice]} practice, and the starter follows {PRACTICES[document.practice]} practice"
            if practice != document.practice
            else "it does not protect against overload, and a manual starter has nothing else that does"
        )
        found.append(
            Problem(
                "protection.device", f"{KINDS[asked].label} cannot be taken: {why}; {usual_kind} is tried in its place"
            )
        )
        document = document.model_copy(update={"protection": document.protection.model_copy(update={"device": None})})
    if m.phases == 1 and s.neutral is False and s.line_voltage_v and "N" in (system := supply_system(document)).taken:
        volts = system.motor_voltage_v or s.line_voltage_v
        found.append(Problem("supply.neutral", f"a {volts:.0f} V motor on {s.line_voltage_v:g} V needs the neutral"))
        document = document.model_copy(update={"supply": s.model_copy(update={"neutral": None})})
    sections = [r["section_mm2"] for r in standard("cable_current_capacity_copper_iec")]
    if document.practice == "iec" and s.cable_section_mm2 is not None and s.cable_section_mm2 not in sections:
        sizes = ", ".join(f"{section:g}" for section in sections)
        found.append(
            Problem(
                "supply.cable_section_mm2",
                f"{s.cable_section_mm2:g} mm² is not a section of the table ({sizes}); one is proposed",
            )
        )
        document = document.model_copy(
            update={"supply": document.supply.model_copy(update={"cable_section_mm2": None})}
        )
    found += [p for p in method.refuses(document) if not p.missing]
    return document, tuple(found)
