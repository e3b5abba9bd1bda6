"""Direct on line: the whole voltage, the whole starting current."""

from volmek.core.devices.part import IN_THE_LINE, LINE
from volmek.core.methods.method import Layout, Method, always, three_phase_only

METHOD = Method(
    label="Direct on line",
    cost="Cheapest and simplest; the whole starting current and torque.",
    leads=3,
    roles=("line_contactor",),
    refuses=three_phase_only,
    layout=lambda document: Layout((LINE,), (IN_THE_LINE,)),
    line_current_share=always(1.0),
    torque_share=always(1.0),
)
