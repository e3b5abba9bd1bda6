"""Star-delta with closed transition: resistors carry the change-over, so that the current never breaks."""

from volmek.core.devices.part import ContactorPart
from volmek.core.methods.method import Method, always
from volmek.core.methods.star_delta import ROLES, parts, refuses

TRANSITION = ContactorPart("transition_contactor", "K4", "Transition contactor", 0.26, "0.26",
                           "it carries the change-over through the resistors for a moment; the maker's figure takes precedence", branch=True, start_share=0.0)  # fmt: skip
METHOD = Method(
    label="Star-delta, closed transition",
    cost="No current break; a fourth contactor and resistors.",
    leads=6,
    roles=(*ROLES, "transition_contactor", "star_delta_timer"),
    refuses=refuses,
    layout=parts(TRANSITION),
    line_current_share=always(1 / 3),
    torque_share=always(1 / 3),
)
