"""Errors of an input, each at its field and with its limit."""

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing wrong with an input.

    Attributes
    ----------
    field : path in the starter document, for example ``motor.rated_power_kw``
    message : one sentence that names the value and the limit
    missing : nothing wrong was typed, something needed is not there yet
    """

    field: str
    message: str
    missing: bool = False

    def __str__(self) -> str:
        return f"{self.field}: {self.message}"


class ProblemError(ValueError):
    """An input that cannot be designed with, as a list of problems."""

    def __init__(self, problems: Iterable[Problem]) -> None:
        self.problems = tuple(problems)
        super().__init__("\n".join(map(str, self.problems)))

    def __reduce__(self) -> tuple[type["ProblemError"], tuple[tuple[Problem, ...]]]:
        """What it is made of again, in another process."""
        return type(self), (self.problems,)


class PlateError(ProblemError):
    """The motor plate or its supply is impossible, contradictory or not complete enough."""

    @classmethod
    def at(cls, field: str, message: str, *, missing: bool = False) -> "PlateError":
        return cls([Problem(field, message, missing)])


class NoDeviceError(ProblemError):
    """The catalogue holds no device that fits."""

    @classmethod
    def at(cls, field: str, message: str) -> "NoDeviceError":
        return cls([Problem(field, message)])
