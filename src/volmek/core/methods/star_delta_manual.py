"""Star-delta without a timer: the start button is held in star and released to run in delta."""

from volmek.core.methods.method import Method, always
from volmek.core.methods.star_delta import ROLES, parts, refuses

METHOD = Method(
    label="Star-delta by hand",
    cost="As star-delta, without a timer: the start button is held in star.",
    leads=6,
    roles=ROLES,
    refuses=refuses,
    layout=parts(timed=False),
    line_current_share=always(1 / 3),
    torque_share=always(1 / 3),
    care="The operator judges when 80 % of the speed is reached.",
)
