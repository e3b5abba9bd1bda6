"""References on the sheets of a circuit: between coils and contacts, elements of one button, wires over sheets; and the words beside devices."""

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from volmek.core.circuit.drawing.feed import COLUMN
from volmek.core.circuit.drawing.pen import Cut, Pen, Spot, Style
from volmek.core.circuit.model.netlist import Circuit, Contact, makes_at_rest
from volmek.core.results.drawing import line, text
from volmek.core.results.sheets import Paper, Sheet, width_of, wrapped

#: Width of the words behind a coil of a ladder; line pitch of lists, and lines of one column of them behind a coil.
BEHIND = 176.0
PITCH, PITCHES_BEHIND = 10.0, 5


@dataclass(frozen=True, slots=True)
class Said:
    """Words beside a device.

    Attributes
    ----------
    device : what it is
    rating, setting : in the list
    beside : the same in short lines, beside its poles
    coil : beside its coil
    """

    device: str
    rating: str = ""
    setting: str = ""
    beside: tuple[str, ...] = ()
    coil: tuple[str, ...] = ()


NOTHING = Said("")


@dataclass(frozen=True, slots=True)
class Drawn:
    """A drawing on its sheet."""

    sheet: Sheet
    pen: Pen
    left: float
    top: float
    scale: float
    lines: tuple[float, ...] = ()

    def at(self, x: float, y: float) -> tuple[float, float]:
        """A point of the drawing on the sheet."""
        return self.left + self.scale * x, self.top + self.scale * y


class References:
    """References among the drawings of a circuit on their sheets.

    Parameters
    ----------
    circuit : that is drawn
    style : ``columns`` with references by sheet and zone, ``ladder`` by numbered lines
    paper : of every sheet
    said : words of every device
    say : puts what the circuit says into the words of a practice
    """

    def __init__(
        self, circuit: Circuit, style: Style, paper: Paper, said: Mapping[str, Said], say: Callable[[str], str]
    ) -> None:
        self.c, self.style, self.paper, self.said, self.say = circuit, style, paper, said, say
        self.drawn: list[Drawn] = []
        self.seats: dict[str, list[tuple[Drawn, Spot]]] = defaultdict(list)

    @property
    def columns(self) -> bool:
        return self.style == "columns"

    @staticmethod
    def line_number(sheet: Sheet, k: int) -> str:
        return f"{sheet.number}{k + 1:02d}"

    def reference(self, drawn: Drawn, x: float, y: float) -> str:
        """Reference to a point from another sheet: sheet and zone, or the number of the line in a ladder."""
        if drawn.lines:
            nearest = min(range(len(drawn.lines)), key=lambda k: abs(drawn.lines[k] - y))
            return self.line_number(drawn.sheet, nearest)
        return f"/{drawn.sheet.number}.{self.paper.zone(*drawn.at(x, y))}"

    def _seat(self, part: str) -> str:
        """Reference of a part, empty where it is not drawn."""
        return next((self.reference(d, s.x, s.y) for d, s in self.seats.get(part, ())), "")

    def _beside(self, drawn: Drawn, spot: Spot, words: Sequence[str], layer: str) -> None:
        x, y = spot.beside
        for k, said in enumerate(words):
            at = drawn.at(x, y + spot.pitch * k)
            drawn.sheet.put(layer, text(*at, said, 8 * drawn.scale, spot.anchor))

    def refer(self) -> None:
        """References of every device, words beside it, and of every wire that continues on another sheet."""
        for part, seats in list(self.seats.items()):
            for drawn, spot in seats:
                if part.startswith("feed:"):
                    self._beside(drawn, spot, [self._seat(f"device:{spot.tag}")], "REFERENCES")
                elif part.startswith("load:"):
                    self._coil(drawn, spot)
                elif part.startswith("contact:"):
                    self._beside(drawn, spot, [self._home(part, spot.tag)], "REFERENCES")
                elif spot.worded:
                    self._device(drawn, spot)
        self._across()
        self._leave()

    def _home(self, part: str, tag: str) -> str:
        """Place of the rest of a contact's device: its coil, else its poles, else its other contacts."""
        for main in (f"load:{tag}", f"device:{tag}"):
            if found := self._seat(main):
                return found
        rest = [p for p in self.seats if p.startswith(f"contact:{tag}:") and p != part]
        return " ".join(dict.fromkeys(self._seat(p) for p in rest))

    def _contacts(self, tag: str) -> list[tuple[str, bool]]:
        """Contacts of a device with where they are, each with whether it opens."""
        found = []
        for c in self.c.contacts:
            if c.device == tag and c.side == "control" and (at := self._seat(f"contact:{c.name}")):
                found.append((f"{c.a}-{c.b} {at}", not makes_at_rest(c)))
        return found

    def _poles(self, tag: str) -> str:
        poles: list[Contact] = [c for c in self.c.contacts if c.device == tag and c.side == "power"]
        at = self._seat(f"device:{tag}")
        return f"{' '.join(f'{c.a}-{c.b}' for c in poles)} {at}" if poles and at else ""

    def _listed(self, tag: str) -> list[tuple[str, bool]]:
        poles = self._poles(tag)
        return [*([(poles, False)] if poles else []), *self._contacts(tag)]

    def longest_list(self) -> int:
        """Lines of the longest list under a coil."""
        loads = {x.device for x in self.c.loads}
        per = [sum(c.device == d and c.side == "control" for c in self.c.contacts) + 1 for d in loads]
        return max(per, default=1)

    def _coil(self, drawn: Drawn, spot: Spot) -> None:
        """Function of a load, its setting, and where its contacts are."""
        tag, put = spot.tag, drawn.sheet.put
        said, size = self.said.get(tag, NOTHING), 8 * drawn.scale
        self._beside(drawn, spot, said.coil, "TEXT")
        x, y = spot.foot
        anchor = "middle" if self.columns else "start"
        meaning = self.say(self.c.meanings.get(tag, ""))
        words = wrapped(f"{said.device}{f', {meaning}' if meaning else ''}", COLUMN - 4 if self.columns else BEHIND, 8)[
            :2
        ]
        for k, w in enumerate(words):
            put("TEXT", text(*drawn.at(x, y + PITCH * k), w, size, "middle" if anchor == "middle" else "start"))
        for k, (w, opens) in enumerate(self._listed(tag)):
            column, row = (0, k + 2) if self.columns else (k // PITCHES_BEHIND, k % PITCHES_BEHIND + len(words))
            at = drawn.at(x + 84 * column, y + PITCH * row)
            put("REFERENCES", text(*at, w, size, "middle" if anchor == "middle" else "start"))
            if opens and not self.columns:  # a break contact is underlined in the list of a ladder
                put("REFERENCES", line(at[0], at[1] + 1.5, at[0] + width_of(w, size), at[1] + 1.5, weight="hair"))

    def _device(self, drawn: Drawn, spot: Spot) -> None:
        """Rating and setting of a device of the power circuit, and where its coil and its contacts are."""
        tag = spot.tag
        beside = self.said.get(tag, NOTHING).beside
        self._beside(drawn, spot, beside, "TEXT")
        coil = self._seat(f"load:{tag}")
        where = [coil] if coil else [at.partition(" ")[2] for at, _ in self._contacts(tag)]
        below = replace(spot, beside=(spot.beside[0], spot.beside[1] + spot.pitch * len(beside)))
        self._beside(drawn, below, list(dict.fromkeys(where))[:2], "REFERENCES")

    def _across(self) -> None:
        """Wires that go on on another sheet, each end with where the other one is."""
        ends: dict[str, list[tuple[Drawn, Cut]]] = defaultdict(list)
        for drawn in self.drawn:
            for cut in drawn.pen.cuts:
                ends[cut.wire].append((drawn, cut))
        for found in ends.values():
            for (drawn, cut), (other, far) in zip(found[::2], found[1::2], strict=True):
                for here, mine, there, his in ((drawn, cut, other, far), (other, far, drawn, cut)):
                    words = self.reference(there, his.x, his.y)
                    here.sheet.put("REFERENCES", text(*here.at(*mine.at), words, 8 * here.scale, mine.anchor))

    def leaving(self) -> list[tuple[str, str]]:
        """Terminals of the power circuit that feed the control circuit, with their wires."""
        own = {x for x in self.c.devices if any(c.device == x and c.side == "power" for c in self.c.contacts)}
        found = dict.fromkeys(
            (w.a, w.number)
            for w in self.c.feed
            if w.a.partition(":")[0] in own and w.b.partition(":")[0] != self.c.monitor
        )
        return list(found)

    def _leave(self) -> None:
        """On the power sheet: which terminals go on to the control circuit, and where it takes them."""
        drawn = self.drawn[0]
        _, _, _, height = self.paper.area
        for k, (terminal, number) in enumerate(self.leaving()):
            at = self._seat(f"feed:{terminal}")
            y = self.paper.area[1] + height - PITCH * drawn.scale * (len(self.leaving()) - k - 1) - 4
            words = f"{terminal}, wire {number}, to the control circuit {at}".rstrip()
            drawn.sheet.put("REFERENCES", text(drawn.left, y, words, 9 * drawn.scale, "start"))

    def where(self, tag: str) -> str:
        parts = [f"load:{tag}", f"device:{tag}"]
        found = [at for p in parts if (at := self._seat(p))]
        rest = [self._seat(p) for p in self.seats if p.startswith(f"contact:{tag}:")]
        return " ".join(dict.fromkeys(found or rest))
