"""Manual motor starter: one device switches and protects, by hand."""

from volmek.core.devices.part import IN_THE_LINE
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument
from volmek.core.methods.method import Layout, Method, always, three_phase_only


def _refuses(document: StarterDocument) -> list[Problem]:
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
                "a manual starter is a motor breaker that switches and protects; choose a motor breaker",
            )
        )
    return problems


METHOD = Method(
    label="Manual motor starter",
    cost="One device switches and protects; no remote control, and it stays on when the supply fails.",
    leads=3,
    roles=(),
    refuses=_refuses,
    layout=lambda document: Layout((), (IN_THE_LINE,)),
    line_current_share=always(1.0),
    torque_share=always(1.0),
    care="It starts again by itself after a supply failure unless it has an undervoltage release.",
)
