"""What one run of the design carries from step to step: inputs, figures so far, findings so far."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.document.model import StarterDocument
from volmek.core.results.figures import Working
from volmek.core.results.findings import Finding, Severity
from volmek.data.loader import finding_rules


@dataclass(slots=True)
class Context:
    """Inputs and the growing result of one design.

    Attributes
    ----------
    document : what the user decided
    catalogue : the devices to choose from
    working : every figure made so far
    findings : every remark made so far
    checks : what the device of each role had to pass, so that others can be tried in its place
    """

    document: StarterDocument
    catalogue: Catalogue
    working: Working = field(default_factory=Working)
    findings: list[Finding] = field(default_factory=list)
    checks: dict[str, Sequence[Callable[[Any], Any]]] = field(default_factory=dict)

    @property
    def nec(self) -> bool:
        """North American practice is followed."""
        return self.document.practice == "nec"

    def find(
        self, severity: Severity, code: str, message: str, at: str, *, device: str | None = None, **said: str
    ) -> None:
        """Add a finding that field ``at`` of the document mends.

        Rule, source and remedy stand in the table of findings; ``said`` replaces one of them where it depends on
        the figures.
        """
        known = finding_rules()[code]
        rule, source, fix = (said.get(name) or str(known[name]) for name in ("rule", "source", "fix"))
        sentence = message if message.endswith(".") else message + "."
        self.findings.append(Finding(severity, code, sentence, at, rule, source, fix, device))
