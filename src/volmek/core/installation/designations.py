"""Designations that every starter gives alike, by role: sizing and circuit take them from here."""

from typing import Final

MAIN_BREAKER: Final = "Q1"
OVERLOAD: Final = "F1"
PHASE_MONITOR: Final = "F2"
CONTROL_BREAKER: Final = "F3"
HEATER_BREAKER: Final = "F5"
PRIMARY_BREAKER: Final = "F6"
CONTROL_TRANSFORMER: Final = "T1"
STAR_DELTA_TIMER: Final = "KT1"
SOFT_STARTER: Final = "G1"
MOTOR: Final = "M1"
STRIP: Final = "X1"
TRIP_RELAY: Final = "K5"
HEATER_SWITCH: Final = "S7"
WINDING_SWITCH: Final = "B5"
RUN_CAPACITOR: Final = "C1"
