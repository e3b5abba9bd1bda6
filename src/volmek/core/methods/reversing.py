"""Reversing direct on line: a second contactor exchanges two lines."""

from volmek.core.devices.part import IN_THE_LINE, LINE, REVERSE
from volmek.core.methods.method import Layout, Method, always, three_phase_only

METHOD = Method(
    label="Reversing, direct",
    cost="Two contactors with electrical and mechanical interlock.",
    leads=3,
    roles=("line_contactor", "reverse_contactor"),
    refuses=three_phase_only,
    layout=lambda document: Layout((LINE, REVERSE), (IN_THE_LINE,), interlock="K1 and K2"),
    line_current_share=always(1.0),
    torque_share=always(1.0),
)
