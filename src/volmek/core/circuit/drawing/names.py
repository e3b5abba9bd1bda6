"""Parts of a circuit in words: what a contact is there for, what a coil belongs to."""

from volmek.core.circuit.model.netlist import Circuit, Contact, makes_at_rest


def part_names(c: Circuit) -> dict[str, str]:
    """Every contact, load and wire in words, by the part that its marks carry.

    Parameters
    ----------
    c : a circuit

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.document.model import parse
    >>> names = part_names(circuit_of(parse({"tag": "A"})))
    >>> names["contact:K1:13-14"], names["contact:F1:95-96"], names["load:K1"]
    ('K1 13-14, seal-in', 'F1 95-96, trip contact', 'K1 coil, Contactor')
    """
    starts = [{c.node_of[t] for t in x.terminals} for x in c.contacts if x.device in c.starts]
    found = {
        f"contact:{x.name}": f"{x.device} {x.a}-{x.b}{f', {what}' if (what := _purpose(c, x, starts)) else ''}"
        for x in c.contacts
    }
    for load in c.loads:
        device = c.devices[load.device]
        coil = "coil" if device.kind in ("contactor", "timer", "star_delta_timer", "relay") else ""
        meaning = c.meanings.get(load.device, "")
        said = ", ".join(x for x in (f"{load.device} {coil}".strip(), device.label, meaning) if x)
        found[f"load:{load.device}"] = said
    return found | {f"wire:{n}": f"wire {n}" for n in {*c.number_of.values()} if n}


def _purpose(c: Circuit, x: Contact, starts: list[set[int]]) -> str:
    device = c.devices[x.device]
    if x.side == "power":
        return "pole"
    if x.device in c.stops:
        return "stop"
    if x.device in c.starts and makes_at_rest(x):
        return "start"
    if device.kind == "overload":
        return "signal contact" if makes_at_rest(x) else "trip contact"
    if device.kind == "contactor":
        if makes_at_rest(x) and {c.node_of[t] for t in x.terminals} in starts:
            return "seal-in"
        rivals = {n for pair in c.forbidden if x.device in pair for n in pair} - {x.device}
        if not makes_at_rest(x) and rivals:
            return "interlock"
        return "make contact" if makes_at_rest(x) else "break contact"
    return device.label.lower()
