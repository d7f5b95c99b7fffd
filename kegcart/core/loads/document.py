"""What is to run."""

from typing import Literal

from pydantic import Field, model_validator

from kegcart.core.document import Part
from kegcart.core.units import Clock, Count, Fraction, Id, Minutes, Multiple, Name, Power, Seconds

Supply = Literal["ac", "dc_12v", "usb", "pack"]
Kind = Literal["heater", "electronics", "led", "brushed", "induction", "compressor", "pump", "air-compressor", "microwave"]


class Window(Part):
    """Hours of the day in which a load is switched on; past midnight where `to_h` is before `from_h`."""

    from_h: Clock
    to_h: Clock

    @model_validator(mode="after")
    def not_empty(self) -> "Window":
        if self.from_h % 24 == self.to_h % 24 and self.from_h == self.to_h:
            raise ValueError("a window that ends when it begins is empty: for the whole day write 0:00 to 24:00")
        return self


class Cycle(Part):
    """On and off times of a load that cycles by itself, as a cooler does."""

    on_min: Minutes
    off_min: Minutes


class Load(Part):
    """One row of loads: `count` like units on one supply."""

    name: Name
    kind: Kind = "electronics"
    count: Count = 1
    supply: Supply = "ac"
    watts: Power = Field(description="running power of one unit, W")
    power_factor: Fraction | None = Field(None, ge=0.1, description="null: typical of its kind")
    surge: Multiple | None = Field(None, description="surge as a multiple of the running power; null: typical of its kind")
    surge_s: Seconds | None = Field(None, description="length of the surge, s; null: typical of its kind")
    start_together: bool = Field(False, description="all units of the row start at the same moment")
    windows: dict[Id, Window] = Field(default_factory=dict, max_length=24)
    cycle: Cycle | None = None
    outlet: Id | None = Field(None, description="outlet it is plugged into; null: auto")


class Loads(Part):
    """All loads, keyed by id in the builder's order."""

    items: dict[Id, Load] = Field(default_factory=dict, max_length=120)
