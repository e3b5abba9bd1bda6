"""Single-phase motor, direct on line: split phase, capacitors, shaded pole."""

from volmek.core.devices.part import LINE
from volmek.core.methods.method import Layout, Method, always
from volmek.core.methods.single_phase import LOOP, auxiliary_figures, one_phase_only

METHOD = Method(
    label="Single-phase, direct",
    cost="One contactor; the overload protection looped through all poles.",
    leads=2,
    roles=("line_contactor",),
    refuses=one_phase_only,
    layout=lambda document: Layout((LINE,), (LOOP,), figures=auxiliary_figures),
    line_current_share=always(1.0),
    torque_share=always(1.0),
)
