"""Choices that this motor or supply forbids: each is a finding at its field, and the design continues without it."""

from functools import lru_cache
from typing import get_args

from volmek.core.devices.cable import DEFAULT_INSULATION
from volmek.core.document.errors import Problem
from volmek.core.document.model import Conductors, Earthing, ProtectionDevice, StarterDocument, StarterType, method_of
from volmek.core.installation.supply import supply_problems, supply_system
from volmek.core.methods import METHODS
from volmek.core.methods.front import KINDS, usual_kinds
from volmek.core.results.beside import Beside
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
        words = f"{why}; {METHODS[usual].label.lower()} is computed instead of {method.label.lower()}"
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
            Problem("protection.device", f"{KINDS[asked].label} cannot be used: {why}; {usual_kind} is tried instead")
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
                f"{s.cable_section_mm2:g} mm² is not a size of the table ({sizes}); one is proposed",
            )
        )
        document = document.model_copy(
            update={"supply": document.supply.model_copy(update={"cable_section_mm2": None})}
        )
    document, beyond = _within_tables(document)
    found += beyond
    found += [p for p in method.refuses(document) if not p.missing]
    return document, tuple(found)


def offered_choices(document: StarterDocument) -> dict[str, tuple[str, ...]]:
    """Choices that motor, supply and practice allow, by field: a page offers no other anew.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> offered_choices(parse({"tag": "A"}))["supply.conductors"]
    ('three_phase_4w', 'three_phase_3w')
    """
    s = document.supply
    key = (document.motor.phases, document.practice, method_of(document), s.conductors, s.neutral, s.system)
    return _offered(key, Beside(document))


@lru_cache(maxsize=256)
def _offered(key: tuple[object, ...], asked: Beside[StarterDocument]) -> dict[str, tuple[str, ...]]:
    """Asked for with every sizing: kept by what it depends on."""
    del key
    document = asked.value

    def allowed(name: str, value: str) -> bool:
        supply = document.supply.model_copy(update={name: value})
        return not any(
            p.field == f"supply.{name}" for p in supply_problems(document.model_copy(update={"supply": supply}))
        )

    by_hand = method_of(document) == "manual"
    return {
        "supply.conductors": tuple(v for v in get_args(Conductors) if allowed("conductors", v)),
        "supply.system": tuple(v for v in get_args(Earthing) if allowed("system", v)),
        "protection.device": tuple(
            v for v in get_args(ProtectionDevice)
            if KINDS[v].practice == document.practice and (not by_hand or KINDS[v].protects_overload)
        ),
    }  # fmt: skip


def _within_tables(document: StarterDocument) -> tuple[StarterDocument, list[Problem]]:
    """Surroundings beyond the tables of factors: a finding, and the last value of the table is used."""
    found: list[Problem] = []
    here, s = document.surroundings, document.supply
    motor_c = here.motor_ambient_c if here.motor_ambient_c is not None else here.ambient_c
    hottest, highest = (
        max(r["value"] for r in standard("motor_ambient_altitude_factor") if r["kind"] == kind)
        for kind in ("ambient_c", "altitude_m")
    )
    if motor_c is not None and motor_c > hottest:
        field = "motor_ambient_c" if here.motor_ambient_c is not None else "ambient_c"
        found.append(
            _beyond(
                f"surroundings.{field}",
                motor_c,
                hottest,
                "°C",
                "the derating factors of motors end: ask the motor's maker",
            )
        )
        here = here.model_copy(update={"motor_ambient_c": hottest})
    if here.altitude_m is not None and here.altitude_m > highest:
        found.append(
            _beyond(
                "surroundings.altitude_m",
                here.altitude_m,
                highest,
                "m",
                "the derating factors of motors end: ask the motor's maker",
            )
        )
        here = here.model_copy(update={"altitude_m": highest})
    if document.practice == "nec":
        top = max(r["ambient_max_c"] for r in standard("conductor_ambient_factor_nec_75c"))
    else:
        insulation = s.cable_insulation or DEFAULT_INSULATION
        table = standard("cable_ambient_factor_iec")
        column = next(name for name in table[0] if name.startswith(insulation))
        top = max(r["ambient_c"] for r in table if r[column] is not None)
    if s.cable_ambient_c is not None and s.cable_ambient_c > top:
        found.append(
            _beyond(
                "supply.cable_ambient_c",
                s.cable_ambient_c,
                top,
                "°C",
                "the factors of this insulation end: no cable of it may lie there",
            )
        )
        s = s.model_copy(update={"cable_ambient_c": top})
    return document.model_copy(update={"surroundings": here, "supply": s}), found


def _beyond(field: str, value: float, limit: float, unit: str, why: str) -> Problem:
    return Problem(field, f"{value:g} {unit} is beyond {limit:g} {unit}, where {why}; {limit:g} {unit} is used")
