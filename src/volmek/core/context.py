"""Inputs of a sizing, and the log of its figures and findings."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.document.model import StarterDocument
from volmek.core.installation.motor_cable import MotorCable
from volmek.core.results.figures import Figure, Working
from volmek.core.results.findings import Finding, Severity
from volmek.data.loader import finding_rules


@dataclass(frozen=True, slots=True)
class Context:
    """Inputs of one sizing, and its log. Steps write into the log and hand each other values; none reads what another wrote.

    Attributes
    ----------
    document : what the user decided
    catalogue : the devices to choose from
    working : takes every figure
    cable : motor cable, as typed or proposed; None while there is none
    """

    document: StarterDocument
    catalogue: Catalogue
    working: Working = field(default_factory=Working)
    cable: MotorCable | None = None
    _findings: dict[tuple[str, str | None, str], Finding] = field(default_factory=dict)

    @property
    def nec(self) -> bool:
        """North American practice is followed."""
        return self.document.practice == "nec"

    def find(
        self, severity: Severity, code: str, message: str, at: str, *, device: str | None = None, **said: str
    ) -> None:
        """Log a finding that field ``at`` of the document mends; the same sentence of the same device once.

        Rule, source and remedy stand in the table of findings; ``said`` replaces one of them where it depends on
        the figures.
        """
        known = finding_rules()[code]
        rule, source, fix = (said.get(name) or str(known[name]) for name in ("rule", "source", "fix"))
        sentence = message if message.endswith(".") else message + "."
        finding = Finding(severity, code, sentence, at, rule, source, fix, device)
        self._findings.setdefault((code, device, sentence), finding)

    def aside(self) -> "Context":
        """The same inputs with a log of their own, for what is worked out without being shown."""
        return Context(self.document, self.catalogue, cable=self.cable)

    def quiet(self) -> "Context":
        """The same figures, and findings of its own that are dropped: for working with a device that is not suitable."""
        return replace(self, _findings={})

    def accept(self, trial: "Context") -> None:
        """Take what was worked out aside into this log."""
        self.working.take(trial.working)
        for key, finding in trial._findings.items():
            self._findings.setdefault(key, finding)

    def with_cable(self, cable: MotorCable | None) -> "Context":
        """The same log, and another motor cable from here on."""
        return replace(self, cable=cable)

    def section_figure(self) -> Figure | None:
        """Cable size to the motor, as typed or proposed."""
        if self.cable is None:
            return None
        field, label, section = "supply.cable_section_mm2", "Cable size to the motor", self.cable.section_mm2
        if self.cable.typed:
            return self.working.typed(field, label, "A", section, "mm²")
        return self.working.add(
            "cable_section_mm2",
            label,
            "A",
            section,
            "mm²",
            field=field,
            source="proposed",
            rule="the smallest that passes every check",
        )

    def log(self) -> tuple[Mapping[str, Figure], list[Finding]]:
        """All figures by id and all findings, once the last step has written; of a sizing that is done."""
        return self.working.written(), list(self._findings.values())
