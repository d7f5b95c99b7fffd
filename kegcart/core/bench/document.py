"""How the station is rehearsed."""

from typing import Annotated

from pydantic import BeforeValidator, Field

from kegcart.core.document import Decisions
from kegcart.core.units import Days, Fraction, reader


class Bench(Decisions):
    """Settings of the simulation. Null: typical, or worked out from the design."""

    days: Days = 3
    start_charge: Fraction = Field(1.0, ge=0.05, description="state of charge at the start")
    thermal_resistance: Annotated[float, Field(ge=0.01, le=5), BeforeValidator(reader("K/W"))] | None = Field(
        None, description="inside air to outside, K/W; null: closed plastic box"
    )
