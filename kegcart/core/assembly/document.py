"""What is decided of the assembly: what one owns already and pays, how wire is bought, which pole goes first, and what else would serve."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, StringConstraints

from kegcart.core.document import Decisions, Said, few
from kegcart.core.text import Printable
from kegcart.core.units import Energy, Fraction, Money, reader

LineKey = Annotated[
    str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,39}(:[a-z0-9][a-z0-9.-]{0,59}){0,3}$"), Field(examples=["part:main-fuse"])
]
"""A line of the list of what the build is made of."""
Owned = Annotated[float, Field(ge=0, le=100_000), BeforeValidator(reader(""))]
Evening = Annotated[float, Field(ge=0.5, le=14), BeforeValidator(reader("h"))]
UseHours = Annotated[float, Field(ge=0, le=336), BeforeValidator(reader("h"))]
UseDays = Annotated[float, Field(ge=0.1, le=60), BeforeValidator(reader("days"))]
FuelRate = Annotated[float, Field(ge=0, le=50), BeforeValidator(reader(""))]
Pole = Annotated[Literal["positive", "negative"], Said((("positive", "positive first"), ("negative", "negative first")))]
Sold = Annotated[Literal["metre", "roll"], Said((("metre", "cut from the reel"), ("roll", "in rolls")))]
KeptAt = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200), Printable]
MOST_LINES = 400


class Alternatives(Decisions):
    """What else would serve, by prices typed in; null: not compared."""

    ready_made: Money | None = Field(None, description="price of a ready-made station")
    ready_made_wh: Energy | None = Field(None, description="what that gives, Wh; null: as much as this one")
    hire_day: Money | None = Field(None, description="hire of one for a day")
    use_days: UseDays = Field(1, description="days of a use")
    generator: Money | None = Field(None, description="price of a generator; 0 where one is there")
    fuel_price: Money | None = Field(None, description="of a litre of fuel")
    fuel_l_h: FuelRate | None = Field(None, description="litres an hour; null: typical of its load")
    use_h: UseHours = Field(8, description="hours that a generator runs in a use")
    energy_price: Money | None = Field(None, description="of a kWh from the wall, to refill this one; null: nothing")


class Assembly(Decisions):
    """Decisions of the build on the bench. Lines are by their key; what is said of one that is gone waits for it."""

    pole_first: Pole = "positive"
    evening_h: Evening = Field(3.0, description="hours of an evening of work, h")
    wire_sold: Sold = "metre"
    wire_spare: Fraction = Field(0.1, description="more wire than is cut, for what goes wrong")
    owned: Annotated[dict[LineKey, Owned | None], few(MOST_LINES)] = Field(
        default_factory=dict, max_length=MOST_LINES, description="how many are there already; of wire, m; null: none"
    )
    prices: Annotated[dict[LineKey, Money | None], few(MOST_LINES)] = Field(
        default_factory=dict, max_length=MOST_LINES, description="price of one, of wire of one m; null: typical"
    )
    alternatives: Alternatives = Field(default_factory=Alternatives)
    kept_at: KeptAt = Field("", description="where the design file is kept, as the sheet in the lid says it")
