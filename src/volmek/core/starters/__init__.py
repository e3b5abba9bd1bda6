"""Starting methods: one module for each family behind one signature, and the table that registers them.

The order is that of cost and simplicity, in which they are offered.
"""

from volmek.core.document import StarterType
from volmek.core.starters import direct_on_line, motor_kinds, reduced_voltage, star_delta
from volmek.core.starters.method import Method

METHODS: dict[StarterType, Method] = {
    "direct_on_line": direct_on_line.DIRECT,
    "manual": direct_on_line.MANUAL,
    "reversing": direct_on_line.REVERSING,
    "star_delta": star_delta.TIMED,
    "star_delta_manual": star_delta.BY_HAND,
    "star_delta_closed": star_delta.CLOSED,
    "part_winding": reduced_voltage.PART_WINDING,
    "stator_resistance": reduced_voltage.STATOR_RESISTANCE,
    "autotransformer": reduced_voltage.AUTOTRANSFORMER,
    "soft_starter": reduced_voltage.SOFT_STARTER,
    "two_speed": motor_kinds.TWO_SPEED,
    "rotor_resistance": motor_kinds.ROTOR_RESISTANCE,
}
