"""Time relay of the change from star to delta: which kind, and who makes the pause."""

from typing import Literal

from volmek.core.document.model import StarterDocument, method_of

TimerKind = Literal["star_delta", "on_delay"]
#: Pause of a star-delta relay with a dial, and what contactors alone take from star to delta [s].
DEFAULT_PAUSE_S, CONTACTOR_PAUSE_S = 0.05, 0.02
#: Longest pause that contactor times alone give [s]: more has to be set on a star-delta relay.
LONGEST_CONTACTOR_PAUSE_S = 0.03


def star_delta_timer_kind(document: StarterDocument) -> TimerKind:
    """Kind of the time relay: a star-delta relay unless an on-delay relay with a change-over contact is asked for.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> star_delta_timer_kind(parse({"tag": "A", "starter": {"type": "star_delta"}, "control": {"star_delta_relay": False}}))
    'on_delay'

    References
    ----------
    IEC 61812-1; the closed transition has no pause and takes an on-delay relay.
    """
    if method_of(document) == "star_delta_closed":
        return "on_delay"
    return "on_delay" if document.control.star_delta_relay is False else "star_delta"


def pause_s(document: StarterDocument, built_in_s: float | None = None) -> float:
    """Pause between star and delta that this starter really has [s].

    Parameters
    ----------
    built_in_s : pause of a relay without a dial for it

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> d = parse({"tag": "A", "starter": {"type": "star_delta", "dwell_s": 0.08}})
    >>> pause_s(d), pause_s(d, 0.05)
    (0.08, 0.05)
    """
    if star_delta_timer_kind(document) == "on_delay":
        return CONTACTOR_PAUSE_S
    if built_in_s is not None:
        return built_in_s
    typed = document.starter.dwell_s
    return DEFAULT_PAUSE_S if typed is None else typed
