"""Findings about a design, in three severities."""

from dataclasses import dataclass
from typing import Literal

Severity = Literal["stop", "attention", "info"]
#: How each is said.
WORDS: dict[Severity, str] = {"stop": "Stop", "attention": "Warning", "info": "Info"}
ORDER: dict[Severity, int] = {"stop": 0, "attention": 1, "info": 2}


@dataclass(frozen=True, slots=True)
class Finding:
    """One remark on a design.

    Attributes
    ----------
    severity : ``stop`` (dangerous or cannot work), ``attention`` (works, with a risk or a local rule to
        check) or ``info``
    code : stable name, for scripts
    message : one sentence for a fitter, with the figure and the limit
    field : path in the starter document that mends it
    rule, source : the rule that was applied and where it comes from
    fix : what would mend it
    device : designation of the device it is about, if any
    """

    severity: Severity
    code: str
    message: str
    field: str
    rule: str
    source: str
    fix: str = ""
    device: str | None = None


def worst(findings: list[Finding]) -> Severity | None:
    """The gravest severity among the findings, None when there are none."""
    return min((f.severity for f in findings), key=ORDER.__getitem__, default=None)
