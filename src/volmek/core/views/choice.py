"""Price of a choice against the computed device: its margin, what else changes, and the findings."""

from dataclasses import dataclass

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.circuit.build.difference import changed_devices
from volmek.core.design import Design
from volmek.core.document.model import Override, StarterDocument
from volmek.core.results.figures import as_read
from volmek.core.results.findings import Finding
from volmek.core.sizing import size


@dataclass(frozen=True, slots=True)
class ChoiceView:
    """A choice, tried.

    Attributes
    ----------
    margin : its rating against what is needed, in words; empty where it has none
    moves : other devices and settings that become others
    found, gone : findings that come and that go
    """

    margin: str
    moves: list[str]
    found: list[Finding]
    gone: list[Finding]


def choice_view(document: StarterDocument, catalogue: Catalogue, choice: Override) -> ChoiceView:
    """Try a choice without keeping it.

    Parameters
    ----------
    document : the starter as it is
    catalogue : the devices to choose from
    choice : of one role; it takes the place of the one there is

    Raises
    ------
    ProblemError : the starter cannot be designed, with it or without.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> s = example()
    >>> tried = choice_view(s.document, s.catalogue, Override(role="line_contactor", device_type="RC-28", reason="try"))
    >>> tried.margin, [f.code for f in tried.found]
    ('28 A, 94 % above the 14.4 A that are needed', [])
    """
    others = [o for o in document.overrides if o.role != choice.role]
    before = size(document, catalogue).design
    after = size(document.model_copy(update={"overrides": [*others, choice]}), catalogue).design
    mine = next((d.designation for d in after.devices if d.role == choice.role), "")
    old, new = _said(before), _said(after)
    return ChoiceView(
        _margin(after, choice.role),
        [words for words in changed_devices(before.devices, after.devices) if not words.startswith(f"{mine}: ")],
        [f for key, f in new.items() if key not in old],
        [f for key, f in old.items() if key not in new],
    )


def _said(design: Design) -> dict[tuple[str, str | None, str], Finding]:
    return {(f.code, f.device, f.message): f for f in design.findings if f.severity != "info"}


def _margin(design: Design, role: str) -> str:
    device = next((d for d in design.devices if d.role == role), None)
    if device is None or device.required.current_a is None:
        return ""
    needed, has = device.required.current_a, device.selected.rated_current_a
    if has is None:
        low, high = device.selected.range_min_a, device.selected.range_max_a
        return f"setting range {as_read(low)} to {as_read(high)} A" if low is not None and high is not None else ""
    share = 100 * (has / needed - 1)
    if abs(share) < 0.5:
        return f"{as_read(has)} A, just what is needed"
    return f"{as_read(has)} A, {abs(share):.0f} % {'above' if share > 0 else 'below'} the {as_read(needed)} A that are needed"
