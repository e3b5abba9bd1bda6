"""Decision diagrams: sets of states as functions of bits, each kept once, so that equal sets are the same number."""

from collections.abc import Iterable, Mapping
from time import monotonic

#: The two leaves: no state, and every state.
NONE, ALL = 0, 1
#: Nodes between two looks at the clock.
LOOK_EVERY = 4096
_LEAF = 1 << 30


class CutShort(Exception):
    """The time is up, or nobody waits for the answer any more."""


class Diagrams:
    """A manager of reduced ordered decision diagrams; functions are numbers of nodes, 0 and 1 the constant ones.

    Parameters
    ----------
    limit_s : time after which any operation raises ``CutShort`` [s]; None for none

    Examples
    --------
    >>> d = Diagrams()
    >>> a, b = d.bit(0), d.bit(1)
    >>> d.both(a, d.other(a)), d.either(a, b) == d.other(d.both(d.other(a), d.other(b)))
    (0, True)

    References
    ----------
    R. E. Bryant, Graph-based algorithms for Boolean function manipulation, IEEE Transactions on Computers C-35 (1986).
    """

    def __init__(self, limit_s: float | None = None) -> None:
        self.level, self.low, self.high = [_LEAF, _LEAF], [NONE, ALL], [NONE, ALL]
        self.until = None if limit_s is None else monotonic() + limit_s
        self._one: dict[tuple[int, int, int], int] = {}
        self._both: dict[tuple[int, int], int] = {}
        self._either: dict[tuple[int, int], int] = {}
        self._other: dict[int, int] = {NONE: ALL, ALL: NONE}

    def node(self, level: int, low: int, high: int) -> int:
        """The function that is ``low`` where a bit is 0 and ``high`` where it is 1."""
        if low == high:
            return low
        key = (level, low, high)
        found = self._one.get(key)
        if found is None:
            found = len(self.level)
            self.level.append(level)
            self.low.append(low)
            self.high.append(high)
            self._one[key] = found
            if not found % LOOK_EVERY and self.until is not None and monotonic() > self.until:
                raise CutShort
        return found

    def bit(self, level: int) -> int:
        """Where one bit is 1."""
        return self.node(level, NONE, ALL)

    def cube(self, bits: Mapping[int, int]) -> int:
        """Where several bits have their values."""
        found = ALL
        for level in sorted(bits, reverse=True):
            found = self.node(level, NONE, found) if bits[level] else self.node(level, found, NONE)
        return found

    def both(self, a: int, b: int) -> int:
        """Intersection."""
        if a == b or b == ALL:
            return a
        if a == ALL:
            return b
        if not a or not b:
            return NONE
        key = (a, b) if a < b else (b, a)
        found = self._both.get(key)
        if found is None:
            x, y = self.level[a], self.level[b]
            if x == y:
                found = self.node(x, self.both(self.low[a], self.low[b]), self.both(self.high[a], self.high[b]))
            elif x < y:
                found = self.node(x, self.both(self.low[a], b), self.both(self.high[a], b))
            else:
                found = self.node(y, self.both(a, self.low[b]), self.both(a, self.high[b]))
            self._both[key] = found
        return found

    def either(self, a: int, b: int) -> int:
        """Union."""
        if a == b or not b:
            return a
        if not a:
            return b
        if a == ALL or b == ALL:
            return ALL
        key = (a, b) if a < b else (b, a)
        found = self._either.get(key)
        if found is None:
            x, y = self.level[a], self.level[b]
            if x == y:
                found = self.node(x, self.either(self.low[a], self.low[b]), self.either(self.high[a], self.high[b]))
            elif x < y:
                found = self.node(x, self.either(self.low[a], b), self.either(self.high[a], b))
            else:
                found = self.node(y, self.either(a, self.low[b]), self.either(a, self.high[b]))
            self._either[key] = found
        return found

    def other(self, a: int) -> int:
        """Everything else."""
        found = self._other.get(a)
        if found is None:
            found = self.node(self.level[a], self.other(self.low[a]), self.other(self.high[a]))
            self._other[a] = found
        return found

    def without(self, a: int, b: int) -> int:
        """What is in the first and not in the second."""
        return self.both(a, self.other(b))

    def all_of(self, functions: Iterable[int]) -> int:
        """Intersection of many."""
        found = ALL
        for f in functions:
            found = self.both(found, f)
        return found

    def any_of(self, functions: Iterable[int]) -> int:
        """Union of many."""
        found = NONE
        for f in functions:
            found = self.either(found, f)
        return found

    def fixed(self, a: int, bits: Mapping[int, int]) -> int:
        """What is left of a function when some bits have their values."""
        last = max(bits, default=-1)
        known: dict[int, int] = {}

        def walk(f: int) -> int:
            at = self.level[f]
            if at > last:
                return f
            found = known.get(f)
            if found is None:
                if at in bits:
                    found = walk(self.high[f] if bits[at] else self.low[f])
                else:
                    found = self.node(at, walk(self.low[f]), walk(self.high[f]))
                known[f] = found
            return found

        return walk(a)

    def some(self, a: int) -> dict[int, int]:
        """Bits of one state of a set that is not empty; those that do not matter are left out."""
        found: dict[int, int] = {}
        while a > ALL:
            one = self.low[a] == NONE
            found[self.level[a]] = int(one)
            a = self.high[a] if one else self.low[a]
        return found

    def count(self, a: int, levels: int) -> int:
        """States of a set over so many bits."""
        known: dict[int, int] = {}

        def below(f: int, level: int) -> int:
            """States over the bits from a level on."""
            top = min(self.level[f], levels)
            if f <= ALL:
                return f << (levels - level)
            if f not in known:
                known[f] = below(self.low[f], top + 1) + below(self.high[f], top + 1)
            return known[f] << (top - level)

        return below(a, 0)
