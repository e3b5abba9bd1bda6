"""Sized devices that decide contacts and loops of the circuit."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from volmek.core.document.model import FUSES, ProtectionDevice, StarterDocument


@dataclass(frozen=True, slots=True)
class Fitted:
    """Devices of the sized starter, as far as its circuit depends on them.

    Attributes
    ----------
    front : kind of the short-circuit device; None while it is not sized
    relay : overload relays of its own; without them a motor breaker is the overload protection
    times_s : settings of its time relays by designation [s], ``pause`` that between star and delta
    """

    front: ProtectionDevice | None = None
    relay: bool = True
    times_s: Mapping[str, float] = field(default_factory=dict)

    @property
    def breaker_protects(self) -> bool:
        """The motor breaker takes the place of the overload relay."""
        return not self.relay and self.front == "motor_breaker"

    @property
    def fuse(self) -> bool:
        """The short-circuit device is a set of fuses."""
        return self.front in FUSES


def overload_fitted(document: StarterDocument) -> bool:
    """A document asks for overload protection.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> overload_fitted(parse({"tag": "A", "protection": {"overload": "none"}}))
    False
    """
    often_built = document.control.variant == "as_often_built" and document.motor.phases == 1
    return document.protection.overload != "none" and not often_built
