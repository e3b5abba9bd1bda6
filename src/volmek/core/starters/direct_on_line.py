"""Direct on line, by hand and in two directions: the whole voltage, the whole starting current."""

from volmek.core.devices.part import IN_THE_LINE, LINE, ContactorPart
from volmek.core.document import StarterDocument
from volmek.core.errors import Problem
from volmek.core.starters.method import Layout, Method, always, three_phase_only

REVERSE = ContactorPart(
    "reverse_contactor",
    "K2",
    "Reverse contactor",
    why="it carries the line current in the other direction",
    branch=True,
)


def _by_hand(document: StarterDocument) -> list[Problem]:
    problems = three_phase_only(document)
    if document.practice == "nec":
        problems.append(
            Problem(
                "practice",
                "a manual starter is sized here in IEC practice only; the catalogue has no NEMA manual starter",
            )
        )
    if document.protection.device not in (None, "motor_breaker"):
        problems.append(
            Problem(
                "protection.device",
                "a manual starter is a motor breaker that switches and protects; choose motor_breaker",
            )
        )
    return problems


DIRECT = Method(
    "Direct on line", "Cheapest and simplest; the whole starting current and torque.", 3, three_phase_only,
    lambda document: Layout((LINE,), (IN_THE_LINE,)), always(1.0), always(1.0),
)  # fmt: skip
MANUAL = Method(
    "Manual motor starter", "One device switches and protects; no remote control, and it stays on when the supply fails.", 3, _by_hand,
    lambda document: Layout((), (IN_THE_LINE,)), always(1.0), always(1.0),
    care="It starts again by itself after a supply failure unless it has an undervoltage release.",
)  # fmt: skip
REVERSING = Method(
    "Reversing, direct", "Two contactors with electrical and mechanical interlock.", 3, three_phase_only,
    lambda document: Layout((LINE, REVERSE), (IN_THE_LINE,), interlock="K1 and K2"), always(1.0), always(1.0),
)  # fmt: skip
