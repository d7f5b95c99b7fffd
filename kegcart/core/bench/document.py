"""How the station is rehearsed."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.document import Decisions, Said
from kegcart.core.units import Current, Days, Fraction, reader

Season = Annotated[
    Literal["coldest", "hottest"], Said((("hottest", "the hottest of the brief"), ("coldest", "the coldest of the brief")))
]


class Bench(Decisions):
    """Settings of the simulation. Null: typical, or worked out from the design."""

    days: Days = 3
    season: Season = "hottest"
    start_charge: Fraction = Field(1.0, ge=0.05, description="state of charge at the start")
    charge_current_a: Current | None = Field(None, description="current of the charger at night, A; null: 0.2 C")
    thermal_resistance: Annotated[float, Field(ge=0.01, le=5), BeforeValidator(reader("K/W"))] | None = Field(
        None, description="inside air to outside, K/W; null: closed plastic box"
    )
