"""Single-phase motor, reversed: one winding is swapped against the other, at rest only."""

from volmek.core.devices.part import LINE, REVERSE
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument
from volmek.core.methods.method import Layout, Method, always
from volmek.core.methods.single_phase import LOOP, auxiliary_figures, one_phase_only


def _refuses(document: StarterDocument) -> list[Problem]:
    problems = one_phase_only(document)
    if document.motor.phases == 1 and document.motor.single_phase_kind == "shaded_pole":
        problems.append(Problem("motor.single_phase_kind", "a shaded-pole motor turns one way only"))
    return problems


METHOD = Method(
    label="Single-phase, reversing",
    cost="Two contactors swap one winding against the other; at rest only.",
    leads=4,
    roles=("line_contactor", "reverse_contactor"),
    refuses=_refuses,
    layout=lambda document: Layout((LINE, REVERSE), (LOOP,), figures=auxiliary_figures, interlock="K1 and K2"),
    line_current_share=always(1.0),
    torque_share=always(1.0),
    care="It must come to rest first: at speed the start winding is out of circuit and the direction does not change.",
)
