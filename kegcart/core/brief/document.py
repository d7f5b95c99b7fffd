"""The brief: what the builder knows before sizing anything."""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from kegcart.core.document import YES_NO, Decisions
from kegcart.core.electrical.conductors import GaugeSystem, School
from kegcart.core.text import Printable, Remark
from kegcart.core.units import Clock, Fraction, Hours, Mass, Money, Rise, ShelfDays, Temperature, Units, shown_in, write_quantity

Mains = Literal["120 V 60 Hz", "230 V 50 Hz", "120/240 V split-phase", "none"]
Carriage = Literal["one hand", "two hands", "two persons", "rolling", "vehicle"]

#: Voltage an ordinary AC outlet gives, by the brief's mains.
OUTLET_VOLTAGE: dict[str, float] = {"120 V 60 Hz": 120, "230 V 50 Hz": 230, "120/240 V split-phase": 120, "none": 230}


class Brief(Decisions):
    """Purpose, site, charging rhythm, practice, margins and limits."""

    purpose: Remark = ""
    site_min_c: Temperature = Field(5, description="lowest site temperature, °C")
    site_max_c: Temperature = Field(30, description="highest site temperature, °C")
    exposure: Literal["dry", "wet"] = "dry"
    outdoors: Annotated[bool, YES_NO] | None = Field(None, description="used outdoors; null: not said")
    ready_h: Clock = Field(8, description="hour of the day at which it stands charged and is unplugged")
    hours_away: Hours = Field(16, description="hours between charges: from unplugging to plugging in again")
    carriage: Carriage = "two hands"
    mass_limit_kg: Mass | None = None
    budget: Money | None = None
    currency: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=8), Printable] = "EUR"
    mains: Mains = "230 V 50 Hz"
    units: Units = Field(
        "metric", description="in which lengths, masses and temperatures are shown; the document keeps m, mm, kg and °C"
    )
    gauge_system: GaugeSystem = "mm2"
    wire_school: School = "small_craft"
    reserve: Fraction = Field(0.15, le=0.9, description="share of the usable energy to be left at the end")
    shelf_days: ShelfDays = Field(90, description="days it must last on the shelf, all loads off")
    growth: Fraction = Field(0.0, description="growth of the loads that auto choices allow for")
    inside_rise_k: Rise | None = Field(None, description="inside over outside temperature, K; null: typical allowance")

    @model_validator(mode="after")
    def temperatures_in_order(self) -> "Brief":
        """Errors: ValueError where the lowest site temperature is above the highest."""
        if self.site_min_c > self.site_max_c:
            with shown_in(self.units):
                low, high = (write_quantity(t, "°C") for t in (self.site_min_c, self.site_max_c))
            raise ValueError(f"the lowest site temperature ({low}) is above the highest ({high})")
        return self
