"""Starting methods: one module for each behind one signature, and the table that registers them.

The order is that of cost and simplicity, in which they are offered.
"""

from volmek.core.document.model import StarterType
from volmek.core.methods import (
    autotransformer,
    direct_on_line,
    manual,
    part_winding,
    reversing,
    rotor_resistance,
    single_phase_direct,
    single_phase_reversing,
    soft_starter,
    star_delta,
    star_delta_closed,
    star_delta_manual,
    stator_resistance,
    two_speed,
)
from volmek.core.methods.method import Method

METHODS: dict[StarterType, Method] = {
    "direct_on_line": direct_on_line.METHOD,
    "manual": manual.METHOD,
    "reversing": reversing.METHOD,
    "star_delta": star_delta.METHOD,
    "star_delta_manual": star_delta_manual.METHOD,
    "star_delta_closed": star_delta_closed.METHOD,
    "part_winding": part_winding.METHOD,
    "stator_resistance": stator_resistance.METHOD,
    "autotransformer": autotransformer.METHOD,
    "soft_starter": soft_starter.METHOD,
    "two_speed": two_speed.METHOD,
    "rotor_resistance": rotor_resistance.METHOD,
    "single_phase_direct": single_phase_direct.METHOD,
    "single_phase_reversing": single_phase_reversing.METHOD,
}
