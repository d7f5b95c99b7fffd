"""What is to run."""

from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, model_validator

from kegcart.core.document import YES_NO, Decisions, Said, few
from kegcart.core.loads.supplies import Direct, Supply
from kegcart.core.text import Name
from kegcart.core.units import (
    Clock,
    Count,
    Days,
    Energy,
    Id,
    MeterEnergy,
    Minutes,
    Multiple,
    Power,
    Seconds,
    Span,
    Voltage,
    reader,
)

Kind = Literal["heater", "electronics", "led", "brushed", "induction", "compressor", "pump", "air-compressor", "microwave"]
LoadMains = Annotated[
    Literal["120 V 60 Hz", "230 V 50 Hz", "240 V 60 Hz", "any"],
    Said(
        (
            ("any", "any, 100–240 V"),
            ("120 V 60 Hz", "120 V 60 Hz"),
            ("230 V 50 Hz", "230 V 50 Hz"),
            ("240 V 60 Hz", "240 V 60 Hz"),
        )
    ),
]
LoadLaw = Annotated[
    Literal["power", "current", "resistance"],
    Said(
        (
            ("power", "its power: an electronic supply"),
            ("current", "its current: a radio, a motor, a lamp driver"),
            ("resistance", "its resistance: a heater, a bulb"),
        )
    ),
]
StartGroup = Annotated[Literal["A", "B", "C"], Said(tuple((g, f"group {g}") for g in "ABC"))]
DayNumber = Annotated[int, Field(ge=1, le=14), BeforeValidator(reader(""))]

MOST_LOADS = 120
CYCLE_MIN = 30
SHORTEST_MIN = 0.5
"""How long a cycle is of which only the share is known, and the least that one of its parts lasts, min."""


class Window(Decisions):
    """Hours of the day in which a load is switched on; past midnight where `to_h` is before `from_h`."""

    from_h: Clock
    to_h: Clock

    @model_validator(mode="after")
    def not_empty(self) -> "Window":
        """Errors: ValueError where it ends when it begins."""
        if self.from_h % 24 == self.to_h % 24 and self.from_h == self.to_h:
            raise ValueError("a window that ends when it begins is empty: for the whole day write 0:00 to 24:00")
        return self


class Cycle(Decisions):
    """On and off times of a load that cycles by itself, as a cooler does."""

    on_min: Minutes
    off_min: Minutes

    @model_validator(mode="before")
    @classmethod
    def of_a_share(cls, data: Any) -> Any:
        """A cycle may be told by the share of the time it is on, `duty`, as in "35 %"; it is half an hour long then, or as long as the
        shorter part needs to be half a minute. Errors: ValueError.
        """
        if not isinstance(data, dict) or "duty" not in data:
            return data
        share = reader("%")(data["duty"])
        if not isinstance(share, int | float) or not 0 < share < 1:
            raise ValueError("a duty is more than 0 % and less than 100 %: what always runs does not cycle")
        rest = {name: value for name, value in data.items() if name != "duty"}
        whole_min = max(CYCLE_MIN, SHORTEST_MIN / min(share, 1 - share))
        return {**rest, "on_min": round(whole_min * share, 3), "off_min": round(whole_min * (1 - share), 3)}


class VoltsAmps(Decisions):
    """Running power from volts and amps, as on a plate."""

    by: Literal["volts_amps"]
    volts: Voltage
    amps: Annotated[float, Field(ge=0.001, le=500), BeforeValidator(reader("A"))]
    law: LoadLaw | None = Field(
        None, description="what stays the same at another voltage, straight on the pack; null: as its kind does"
    )


class MeterReading(Decisions):
    """Running power from a plug-in meter: kWh counted over hours of use."""

    by: Literal["meter"]
    wh: MeterEnergy
    hours: Span


class DeviceCharging(Decisions):
    """Running power from a device's own battery and how often it is charged."""

    by: Literal["charging"]
    battery_wh: Energy
    charges: Annotated[float, Field(gt=0, le=50), BeforeValidator(reader(""))] = Field(
        1, description="full charges on a day it is charged, of one unit"
    )
    efficiency: Annotated[float, Field(ge=0.2, le=1), BeforeValidator(reader("%"))] | None = Field(
        None, description="null: typical"
    )


Measured = Annotated[
    VoltsAmps | MeterReading | DeviceCharging,
    Field(discriminator="by"),
    Said(
        (("volts_amps", "volts and amps"), ("meter", "a plug-in meter"), ("charging", "its battery, and how often it is charged"))
    ),
]


class Load(Decisions):
    """One row of loads: `count` like units on one supply. Its power is typed in watts, or follows from `measured`."""

    name: Name
    kind: Kind = "electronics"
    count: Count = 1
    supply: Supply = "ac"
    watts: Power | None = Field(None, description="running power of one unit, W; null where `measured` gives it")
    measured: Measured | None = None
    power_factor: Annotated[float, Field(ge=0.1, le=1), BeforeValidator(reader("%"))] | None = Field(
        None, description="null: typical of its kind"
    )
    surge: Multiple | None = Field(None, description="surge as a multiple of the running power; null: typical of its kind")
    surge_s: Seconds | None = Field(None, description="length of the surge, s; null: typical of its kind")
    start_together: bool = Field(False, description="all units of the row start at the same moment")
    start_group: StartGroup | None = Field(None, description="rows of one group start at the same moment")
    windows: dict[Id, Window] = Field(default_factory=dict, max_length=24)
    days: list[DayNumber] | None = Field(None, max_length=14, description="days of the pattern on which it runs; null: each day")
    cycle: Cycle | None = None
    outlet: Id | None = Field(None, description="outlet it is plugged into; null: auto")
    bank: Id | None = Field(None, description="pack or further bank that feeds it; null: whichever has an outlet of its supply")
    mains: LoadMains | None = Field(None, description="mains on its plate, for an AC load; null: as the brief's")
    direct: Direct | None = Field(None, description="DC supply that would do without its wall adapter; null: it has none")
    adapter_efficiency: Annotated[float, Field(ge=0.3, le=1), BeforeValidator(reader("%"))] | None = Field(
        None, description="of its wall adapter; null: typical"
    )
    pure_sine: Annotated[bool, YES_NO] | None = Field(
        None, description="whether it wants a pure sine; null: as is typical of its kind"
    )
    steady: Annotated[bool, YES_NO] | None = Field(
        None, description="whether a 12 V load wants its voltage steady; null: as is typical of its kind"
    )
    needs_bond: bool = Field(False, description="refuses an AC output whose neutral is not bonded to earth")
    engine_runs: bool = Field(False, description="a vehicle's engine runs while it is on, and its alternator feeds it")

    @model_validator(mode="after")
    def one_source_of_power(self) -> "Load":
        """Errors: ValueError where the power is given twice, or not at all."""
        if self.watts is None and self.measured is None:
            raise ValueError(
                "watts are missing: type them, or give volts and amps, a meter reading, or a battery that is charged"
            )
        if self.watts is not None and self.measured is not None:
            raise ValueError("watts are typed and measured at once: keep one of the two")
        return self


class Loads(Decisions):
    """All loads, keyed by id in the builder's order, and the pattern of days that repeats."""

    items: Annotated[dict[Id, Load], few(MOST_LOADS)] = Field(default_factory=dict, max_length=MOST_LOADS)
    days: Days = Field(1, description="days of the pattern; 1 where every day is alike")
    weekdays: bool = Field(False, description="the days are Monday to Sunday")

    @model_validator(mode="after")
    def days_of_the_pattern(self) -> "Loads":
        """Errors: ValueError where a week has not seven days."""
        if self.weekdays and self.days != 7:
            raise ValueError("a week has seven days")
        return self
