"""Register map of a panel meter: quantity, register, and the range that is possible."""

from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

#: Quantities that the record knows, with unit and what a meter can show.
QUANTITIES: dict[str, tuple[str, float, float]] = {
    "voltage_l1_l2": ("V", 0, 15_000), "voltage_l2_l3": ("V", 0, 15_000), "voltage_l3_l1": ("V", 0, 15_000), "voltage_l1_n": ("V", 0, 15_000),
    "current_l1": ("A", 0, 20_000), "current_l2": ("A", 0, 20_000), "current_l3": ("A", 0, 20_000), "frequency": ("Hz", 0, 500),
    "power_factor": ("", -1, 1), "active_power": ("kW", -50_000, 50_000), "start_current": ("A", 0, 100_000), "start_time": ("s", 0, 3600),
    "star_time": ("s", 0, 3600), "dwell_ms": ("ms", 0, 60_000),
}  # fmt: skip
Type = Literal["float32", "int16", "uint16", "int32", "uint32"]


class Register(BaseModel):
    """Register of a quantity, and its coding."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    quantity: str
    address: int = Field(ge=0, le=65_535)
    type: Type = "float32"
    scale: float = Field(default=1.0, ge=1e-9, le=1e9)

    @field_validator("quantity")
    @classmethod
    def _known(cls, value: str) -> str:
        if value not in QUANTITIES:
            raise ValueError(f"must be one of {', '.join(QUANTITIES)}")
        return value


class MeterSettings(BaseModel):
    """A panel meter: where it is and its register map."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    host: str = Field(default="127.0.0.1", min_length=1, max_length=120)
    port: int = Field(default=502, ge=1, le=65_535)
    device_id: int = Field(default=1, ge=0, le=247)
    table: Literal["holding", "input"] = "holding"
    word_order: Literal["big", "little"] = "big"
    timeout_s: float = Field(default=1.5, ge=0.1, le=30)
    registers: list[Register] = Field(min_length=1, max_length=60)

    @field_validator("registers")
    @classmethod
    def _once(cls, value: list[Register]) -> list[Register]:
        names = [r.quantity for r in value]
        twice = {n for n in names if names.count(n) > 1}
        if twice:
            raise ValueError(f"{', '.join(sorted(twice))} stands in the map twice")
        return value


def stand_in_map() -> list[Register]:
    """The register map of the stand-in: floats from 100 on, in the order above."""
    return [Register(quantity=q, address=100 + 2 * n) for n, q in enumerate(QUANTITIES)]


@dataclass(frozen=True, slots=True)
class Readout:
    """Readings of a meter.

    Attributes
    ----------
    values : by quantity, in the units of the map's quantities
    problem : one sentence, empty when all went well
    missing : quantities that were asked for and did not come
    """

    values: dict[str, float]
    problem: str
    missing: tuple[str, ...]
