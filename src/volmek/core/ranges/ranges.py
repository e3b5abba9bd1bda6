"""The same design at the ends of its unknowns and at sampled combinations: what stays, what changes and from where on."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument
from volmek.core.ranges.unknowns import Unknown, unknowns
from volmek.core.results.figures import as_read
from volmek.core.results.findings import ORDER, WORDS, Severity
from volmek.core.sizing import Sized, size

#: Combinations of all unknowns that are tried, steps towards a value from which something changes, and designs tried in all.
COMBINATIONS, STEPS, TRIES = 6, 3, 32
#: Bases of the sequence that spreads the combinations.
PRIMES = (2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37)
#: A figure that moves by less than this share of itself stays.
STAYS = 0.01
#: Weight of a change, where unknowns are ranked: of a verdict to a stop, of a device or setting, and of a figure by its whole width.
GRAVE, PLAIN, WIDTH = 100.0, 10.0, 5.0
WHAT = {
    "type": "device",
    "dial": "overload setting",
    "class": "class",
    "trip": "magnetic trip",
    "time": "time",
    "verdict": "verdict",
}
UNITS = {"dial": "A", "trip": "A", "time": "s"}


@dataclass(frozen=True, slots=True)
class RangedFigure:
    """A result that depends on unknowns.

    Attributes
    ----------
    key, label, unit : of the result
    value, low, high : as computed, and the least and most over the range; None where the start never ends
    text, span : as they are read, ``13.5 s`` and ``9 to 19``; no span where it stays
    """

    key: str
    label: str
    unit: str
    value: float | None
    low: float | None
    high: float | None
    text: str
    span: str


@dataclass(frozen=True, slots=True)
class Held:
    """A device, setting or verdict over the whole range.

    Attributes
    ----------
    designation, what : whose, and which of its choices
    value : as computed
    holds : it is the same over the whole range
    others : what else it can come to
    until : from where on it changes, in sentences
    """

    designation: str
    what: str
    value: str
    holds: bool
    others: tuple[str, ...]
    until: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ToFindOut:
    """An unknown and what it changes.

    Attributes
    ----------
    field, label : where it is typed, and in words
    taken, span : what is used, and its spread, with the unit
    source, how : of the spread, and how to find it out
    changes : what it changes, in words; empty when nothing
    weight : by which the unknowns are ranked
    """

    field: str
    label: str
    taken: str
    span: str
    source: str
    how: str
    changes: tuple[str, ...]
    weight: float


@dataclass(frozen=True, slots=True)
class Ranges:
    """Certainty of a design.

    Attributes
    ----------
    figures, held : results with their range, and choices with whether they hold
    find_out : unknowns, the one that changes most first
    tried : how many designs were computed, ``refused`` of them could not be
    words : in one sentence
    """

    figures: tuple[RangedFigure, ...]
    held: tuple[Held, ...]
    find_out: tuple[ToFindOut, ...]
    tried: int
    refused: int
    words: str


@dataclass(frozen=True, slots=True)
class _Outcome:
    """Choices, settings and figures of one design, by key."""

    choices: dict[tuple[str, str], str]
    settings: dict[tuple[str, str], float]
    figures: dict[str, float | None]


FIGURES = {
    "design_current_a": ("Rated current in use", "A"), "starting_line_current_a": ("Current at the start", "A"), "start_time_s": ("Starting time", "s"),
    "proposed_stage_time_s": ("Time proposed for the first stage", "s"), "changeover_current_a": ("Current at the change-over", "A"),
    "reclosing_peak_a": ("Peak inrush when delta closes", "A"), "supply_dip_pct": ("Voltage dip of the supply", "%"),
    "least_fault_current_a": ("Minimum fault current at the motor", "A"), "line_contactor.life_operations": ("Electrical life of the line contactor", "operations"),
}  # fmt: skip


def _outcome(sized: Sized) -> _Outcome:
    design, start = sized.design, sized.built.start
    choices: dict[tuple[str, str], str] = {}
    settings: dict[tuple[str, str], float] = {}
    for d in design.devices:
        if d.kind in ("lamp", "push_button", "terminal"):
            continue
        x, own = d.settings, (d.designation, "type")
        choices[own] = d.selected.type or "none fits"
        for what, value in (("dial", x.dial_a), ("trip", x.instantaneous_trip_a), ("time", x.star_time_s)):
            if value is not None:
                settings[d.designation, what] = float(value)
        if x.trip_class:
            choices[d.designation, "class"] = f"class {x.trip_class}"
        verdict: Severity | None = design.verdict(d.designation)
        choices[d.designation, "verdict"] = verdict or "fine"
    stops = {f.code for f in design.findings if f.severity == "stop"}
    choices["", "verdict"] = (
        "stop" if stops else "attention" if any(f.severity == "attention" for f in design.findings) else "fine"
    )
    figures: dict[str, float | None] = {
        k: f.number for k, f in design.figures.items() if k in FIGURES and not isinstance(f.value, str)
    }
    figures["design_current_a"] = design.currents.design_current_a
    figures["starting_line_current_a"] = design.currents.starting_line_current_a
    figures["start_time_s"] = None if start.result and start.result.stalls else start.figure.number
    if start.changeover_current_a is not None:
        figures["changeover_current_a"] = start.changeover_current_a
    return _Outcome(choices, settings, figures)


class _Tries:
    """Designs with unknowns at given shares of their spread, each computed once."""

    def __init__(self, sized: Sized, dropped: Callable[[], bool]) -> None:
        self.sized, self.dropped = sized, dropped
        self.unknown = unknowns(sized)
        self.base = _outcome(sized)
        self.seen: dict[tuple[tuple[int, float], ...], _Outcome | None] = {}

    def at(self, shares: dict[int, float]) -> _Outcome | None:
        """None where these values contradict each other or the plate."""
        key = tuple(sorted(shares.items()))
        if key not in self.seen:
            if self.dropped():
                raise Overtaken
            document: StarterDocument = self.sized.document
            for i, share in key:
                document = self.unknown[i].applied(document, self.unknown[i].at(share))
            try:
                self.seen[key] = _outcome(size(document, self.sized.catalogue))
            except ProblemError:
                self.seen[key] = None
        return self.seen[key]

    def outcomes(self) -> Iterator[_Outcome]:
        yield self.base
        yield from (o for o in self.seen.values() if o is not None)


class Overtaken(Exception):
    """A newer question makes this one idle."""


def _share(i: int, base: int) -> float:
    """The i-th share of a sequence that fills the way evenly, from its base."""
    share, part = 0.0, 1.0 / base
    while i > 0:
        share, i, part = share + part * (i % base), i // base, part / base
    return share


def ranges(document: StarterDocument, catalogue: Catalogue, dropped: Callable[[], bool] = lambda: False) -> Ranges:
    """Certainty of the design of a document, and what to find out next; the same document always gives the same digits.

    Parameters
    ----------
    document, catalogue : as for ``size``
    dropped : says that nobody waits for it any more

    Raises
    ------
    ProblemError : as ``size``.
    Overtaken : nobody waits for it any more.

    Examples
    --------
    >>> from volmek.core.catalogue.catalogue import reference_catalogue
    >>> from volmek.core.examples import example_document
    >>> r = ranges(example_document(load={"start_time_s": None}), reference_catalogue())
    >>> r.find_out[0].label, r.find_out[0].span
    ('Starting time', '1 to 8 s')

    References
    ----------
    The same design at the ends of each spread and at combinations spread by a Halton sequence.
    """
    tries = _Tries(size(document, catalogue), dropped)
    for i in range(len(tries.unknown)):
        for end in (0.0, 1.0):
            tries.at({i: end})
    if len(tries.unknown) > 1:
        for n in range(1, COMBINATIONS + 1):
            tries.at({i: _share(n, PRIMES[i]) for i in range(len(tries.unknown))})
    found_out = sorted((_to_find_out(tries, i) for i in range(len(tries.unknown))), key=lambda x: -x[0].weight)
    until = _until(tries, [i for _, i in found_out])
    held = (
        *(_held(tries, key, tuple(until.get(key, ()))) for key in tries.base.choices),
        *(_set(tries, key) for key in tries.base.settings),
    )
    order = {d.designation: n for n, d in enumerate(tries.sized.design.devices)}
    held = tuple(sorted(held, key=lambda h: order.get(h.designation, -1)))
    refused = sum(o is None for o in tries.seen.values())
    asked = tuple(x for x, _ in found_out)
    return Ranges(_figures(tries), held, asked, len(tries.seen) + 1, refused, _words(held, asked))


def _figures(tries: _Tries) -> tuple[RangedFigure, ...]:
    found = []
    for key, value in tries.base.figures.items():
        label, unit = FIGURES[key]
        values = [o.figures[key] for o in tries.outcomes() if key in o.figures]
        known = [v for v in values if v is not None]
        low, high = (min(known), max(known)) if known else (None, None)
        moves = low is not None and high is not None and high - low > STAYS * max(abs(high), 1e-9)
        never = any(v is None for v in values)
        text = "never ends" if value is None else f"{as_read(value)} {unit}"
        span = f"{as_read(low or 0.0)} to {'never' if never else as_read(high or 0.0)}"
        shown = span if moves or (never and value is not None) else ""
        found.append(RangedFigure(key, label, unit, value, low, None if never else high, text, shown))
    return tuple(found)


def _held(tries: _Tries, key: tuple[str, str], until: tuple[str, ...]) -> Held:
    value = tries.base.choices[key]
    others = dict.fromkeys(o.choices.get(key, "not fitted") for o in tries.outcomes())
    others.pop(value, None)
    return Held(key[0], WHAT[key[1]], value, not others, tuple(sorted(others)), until)


def _set(tries: _Tries, key: tuple[str, str]) -> Held:
    value, unit = tries.base.settings[key], UNITS[key[1]]
    values = [o.settings[key] for o in tries.outcomes() if key in o.settings]
    missing = any(key not in o.settings for o in tries.outcomes())
    low, high = min(values), max(values)
    moves = high - low > STAYS * high
    others = (*([f"{as_read(low)} to {as_read(high)} {unit}"] if moves else []), *(["not fitted"] if missing else []))
    return Held(key[0], WHAT[key[1]], f"{as_read(value)} {unit}", not others, others, ())


def _until(tries: _Tries, order: list[int]) -> dict[tuple[str, str], list[str]]:
    """For each choice the values of single unknowns up to which it surely holds; the weightiest unknowns first, as far as the tries go."""
    found: dict[tuple[str, str], list[str]] = {}
    for i in order:
        u = tries.unknown[i]
        for end in (0.0, 1.0):
            far = tries.at({i: end})
            changed = [
                k for k, v in tries.base.choices.items() if far is not None and far.choices.get(k, "not fitted") != v
            ]
            if not changed or far is None:
                continue
            if u.typical is None:
                for k in changed:
                    other = far.choices.get(k, "not fitted")
                    found.setdefault(k, []).append(f"{_said(k, other)} with {_name(u)} of {u.read(u.at(end))}.")
                continue
            # The way from what is used to the end, halved towards the nearest change.
            place = _place(u)
            near, far_off, kept = place, end, dict.fromkeys(changed, place)
            for _ in range(STEPS):
                if len(tries.seen) >= TRIES:
                    break
                middle = 0.5 * (near + far_off)
                at = tries.at({i: middle})
                same = [k for k in changed if at is not None and at.choices.get(k) == tries.base.choices[k]]
                for k in same:
                    kept[k] = max(kept[k], middle) if end else min(kept[k], middle)
                near, far_off = (middle, far_off) if len(same) == len(changed) else (near, middle)
            word = "up to" if end else "down to"
            for k in changed:
                found.setdefault(k, []).append(
                    f"{_said(k, tries.base.choices[k])} {word} {_name(u)} of {u.read(u.at(kept[k]))}."
                )
    return found


def _verdict(value: str) -> str:
    """A severity in words."""
    return WORDS[value].lower() if value in ORDER else "OK"


def _said(key: tuple[str, str], value: str) -> str:
    if key[1] == "verdict":
        return f"The verdict is “{_verdict(value)}”"
    return f"{value[0].upper()}{value[1:]} holds" if key[1] != "type" or value != "none fits" else "None fits"


def _name(u: Unknown) -> str:
    words = u.label if u.label.startswith("cosφ") else u.label[0].lower() + u.label[1:]
    return f"{'an' if words[0] in 'aeiou' else 'a'} {words}"


def _place(u: Unknown) -> float:
    """Place of the value used between the ends, as a share."""
    from scipy.optimize import brentq

    typical = u.typical or 0.0
    if not u.low < typical < u.high:
        return 0.0 if typical <= u.low else 1.0
    return float(brentq(lambda share: u.at(share) - typical, 0.0, 1.0))


def _to_find_out(tries: _Tries, i: int) -> tuple[ToFindOut, int]:
    u, base = tries.unknown[i], tries.base
    ends = [o for end in (0.0, 1.0) if (o := tries.at({i: end})) is not None]
    weight, said = 0.0, []
    for key, value in base.choices.items():
        others = dict.fromkeys(o.choices.get(key, "not fitted") for o in ends)
        others.pop(value, None)
        if not others:
            continue
        grave = key[1] == "verdict" and "stop" in (value, *others)
        weight += GRAVE if grave else PLAIN
        if key == ("", "verdict"):
            said.append(f"the verdict of the whole starter: {_verdict(value)}, or {' or '.join(map(_verdict, others))}")
        elif key[1] == "verdict" and grave:
            said.append(f"{key[0]}: {_verdict(value)}, or {' or '.join(map(_verdict, others))}")
        elif key[1] != "verdict":
            said.append(f"{key[0]}: {value}, or {' or '.join(others)}")
    for key, value_a in base.settings.items():
        values_a = [value_a, *(o.settings[key] for o in ends if key in o.settings)]
        width = (max(values_a) - min(values_a)) / max(values_a)
        if width > STAYS:
            weight += PLAIN * min(1.0, 4 * width)
            said.append(
                f"{key[0]} {WHAT[key[1]]}: {as_read(min(values_a))} to {as_read(max(values_a))} {UNITS[key[1]]}"
            )
    for name, number in base.figures.items():
        values = [number, *(o.figures.get(name) for o in ends)]
        known = [v for v in values if v is not None]
        if not known:
            continue
        width = (max(known) - min(known)) / max(abs(max(known)), 1e-9)
        never = any(v is None for v in values) and number is not None
        if width > STAYS or never:
            weight += GRAVE if never else WIDTH * width
            label, unit = FIGURES[name]
            said.append(f"{label.lower()}: {as_read(min(known))} to {'never' if never else as_read(max(known))} {unit}")
    taken = "nothing" if u.typical is None else u.read(u.typical)
    found = ToFindOut(
        u.field, u.label, taken, f"{as_read(u.low)} to {u.read(u.high)}", u.source, u.how, tuple(said), round(weight, 3)
    )
    return found, i


def _words(held: tuple[Held, ...], find_out: tuple[ToFindOut, ...]) -> str:
    moving = [h for h in held if not h.holds and h.what != "verdict"]
    if not find_out:
        return "Everything that the design rests on is known."
    if not moving:
        return "Every device and setting stays the same whatever the unknown values are."
    named = list(dict.fromkeys(f"{h.designation} {h.what}" for h in moving))
    return f"{len(moving)} of {sum(h.what != 'verdict' for h in held)} devices and settings depend on unknowns: {', '.join(named[:4])}{f' and {len(named) - 4} more' if len(named) > 4 else ''}."
