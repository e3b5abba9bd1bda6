"""An existing starter changed: wires removed, moved and added, and parts that come or go."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from volmek.core.circuit.kernel.report import auxiliary_contacts
from volmek.core.circuit.model.netlist import Circuit, Wire
from volmek.core.devices.device import Device
from volmek.core.devices.settings import settings_of


@dataclass(frozen=True, slots=True)
class Moved:
    """A wire that keeps one end."""

    keeps: str
    was: str
    goes: str
    side: str


@dataclass(frozen=True, slots=True)
class Ends:
    """A wire from terminal to terminal."""

    a: str
    b: str
    side: str


@dataclass(frozen=True, slots=True)
class Difference:
    """Work that changes one circuit into another.

    Attributes
    ----------
    removed, moved, added : wires
    parts_added, parts_removed : devices in words
    kept : wires that stay
    changed : devices and settings that become others, one sentence each; empty where nothing is sized
    """

    removed: list[Ends]
    moved: list[Moved]
    added: list[Ends]
    parts_added: list[str]
    parts_removed: list[str]
    kept: int
    changed: list[str]


def difference(
    before: Circuit, after: Circuit, sized: tuple[Sequence[Device], Sequence[Device]] = ((), ())
) -> Difference:
    """From one circuit to another.

    Parameters
    ----------
    sized : devices of both, where they are sized

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.document.model import parse
    >>> one, two = (circuit_of(parse({"tag": "A", "control": {"lamps": x}})) for x in ([], ["running"]))
    >>> d = difference(one, two)
    >>> len(d.removed), len(d.added), d.parts_added
    (0, 3, ['P1 Lamp', 'K1: one more make contact'])
    """
    old, new = ({frozenset((w.a, w.b)): w for w in (*c.wires, *c.feed)} for c in (before, after))
    gone, come = [w for k, w in old.items() if k not in new], [w for k, w in new.items() if k not in old]
    moved: list[Moved] = []
    for w in list(gone):
        for v in list(come):
            shared = {w.a, w.b} & {v.a, v.b}
            if len(shared) == 1 and w.side == v.side:
                keep = next(iter(shared))
                moved.append(Moved(keep, _other(w, keep), _other(v, keep), w.side))
                gone.remove(w)
                come.remove(v)
                break
    added, removed = _parts(before, after), _parts(after, before)
    return Difference(
        [_ends(w) for w in gone],
        moved,
        [_ends(w) for w in come],
        added,
        removed,
        len(old) - len(gone) - len(moved),
        changed_devices(*sized),
    )


def changed_devices(before: Sequence[Device], after: Sequence[Device]) -> list[str]:
    """Devices that become another type, and settings that become another value.

    Examples
    --------
    >>> from volmek.core.devices.device import Required, Selected
    >>> from volmek.core.devices.settings import Settings
    >>> from volmek.core.results.figures import Working
    >>> why = Working().add("overload_relay.range", "Range", "", "")
    >>> one, two = (Device("F1", "overload_relay", "overload_relay", "Overload relay", Required(), Selected(t), Settings(dial_a=a),
    ...     (why,), why) for t, a in (("RT-15", 14.4), ("RT-9", 8.3)))
    >>> changed_devices([one], [two])
    ['F1: RT-15 becomes RT-9', 'F1: overload setting 14.4 A becomes 8.3 A']
    """
    old = {d.designation: d for d in before}
    found = []
    for d in after:
        was = old.get(d.designation)
        if was is None:
            continue
        types = [str(x.selected.type or "") for x in (was, d)]
        if types[0] != types[1] and all(types):
            found.append(f"{d.designation}: {types[0]} becomes {types[1]}")
        settings = {s.key: s for s in settings_of(was.settings)}
        for s in settings_of(d.settings):
            earlier = settings.get(s.key)
            if earlier is None or earlier.text != s.text:
                before_words = f"{earlier.text} {earlier.unit}".strip() + " becomes " if earlier else "set to "
                found.append(f"{d.designation}: {s.label} {before_words}{s.text} {s.unit}".strip())
    return found


def _other(w: Wire, end: str) -> str:
    return w.b if w.a == end else w.a


def _ends(w: Wire) -> Ends:
    return Ends(w.a, w.b, "power" if w.side == "power" else "control")


def _parts(before: Circuit, after: Circuit) -> list[str]:
    found = [f"{d.designation} {d.label}" for n, d in after.devices.items() if n not in before.devices]
    old, new = auxiliary_contacts(before), auxiliary_contacts(after)
    for name, need in new.items():
        if name in old:
            more = Counter(need) - Counter(old[name])
            for kind, n in more.items():
                word = {"no": "make", "nc": "break"}[kind]
                found.append(f"{name}: {'one' if n == 1 else n} more {word} contact{'s' if n > 1 else ''}")
    return found
