"""Starting methods: one module for each family behind one signature, and the table that registers them.

The order is that of cost and simplicity, in which they are offered.
"""

from volmek.core.document import StarterDocument, StarterType
from volmek.core.starters import direct_on_line, motor_kinds, reduced_voltage, single_phase, star_delta
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
    "single_phase_direct": single_phase.DIRECT,
    "single_phase_reversing": single_phase.REVERSING,
}


def method_of(document: StarterDocument) -> StarterType:
    """The method that the document asks for; without a choice the direct one for its number of phases."""
    if "type" not in document.starter.model_fields_set and document.motor.phases == 1:
        return "single_phase_direct"
    return document.starter.type
