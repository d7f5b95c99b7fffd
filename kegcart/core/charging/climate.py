"""How much sun there is where the panels stand."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.charging import sun
from kegcart.core.document import Decisions, Said, member
from kegcart.core.figure import Figure
from kegcart.core.reference import Climate, climates, constant
from kegcart.core.units import Latitude, series_reader

ClimateKey = Annotated[
    str,
    member(frozenset(climates()), "climate"),
    Said(tuple((c.key, c.label) for c in climates().values())),
    Field(examples=["alpine"]),
]
SunHours = Annotated[float, Field(ge=0, le=15)]
HALF_A_YEAR = 6
AT = "/charging/sun"


class Sunshine(Decisions):
    """The climate in which the panels stand, or the builder's own figures of it."""

    climate: ClimateKey = "temperate-inland"
    latitude_deg: Latitude | None = Field(None, description="north positive, °; null: that of the climate")
    sun_hours: Annotated[list[SunHours], Field(min_length=12, max_length=12), BeforeValidator(series_reader("h"))] | None = Field(
        None,
        description="hours of full sun a day on a level plane (kWh/m²), by month from January; null: by the clearness of the climate",
    )


@dataclass(frozen=True, slots=True, eq=False)
class SunSizing:
    """The sun there. place: as `sun` reads it. latitude in °; clearness and hours of full sun on a level plane by month.

    beyond: months (from 1) of which more was typed than a clear sky gives. coldest, hottest: months.
    """

    place: sun.Place
    latitude: Figure
    clearness: tuple[Figure, ...]
    beyond: tuple[int, ...]
    coldest: int
    hottest: int

    def month(self, season: Literal["coldest", "hottest"]) -> int:
        """The month (from 1) of the coldest or hottest days."""
        return self.coldest if season == "coldest" else self.hottest


def size_sun(decisions: Sunshine) -> SunSizing:
    """The sun of these decisions; see `sun_of`."""
    typed = tuple(decisions.sun_hours) if decisions.sun_hours is not None else None
    return sun_of(decisions.climate, decisions.latitude_deg, typed)


@lru_cache(maxsize=16)  # none of its figures is entered in a sheet
def sun_of(climate: str, latitude_deg: float | None, sun_hours: tuple[float, ...] | None) -> SunSizing:
    """The clearness of each month: that of the climate, or as follows from the hours of sun that were typed.

    On the other half of the globe a climate has its months half a year later.
    Source: clearness is the light on the ground over that above the air (definition); climates table.
    """
    row: Climate = climates()[climate]
    if latitude_deg is None:
        latitude = row.figure("φ", row.latitude, "°", f"latitude, {row.label}")
    else:
        latitude = Figure.decided("φ", latitude_deg, "°", "latitude", f"{AT}/latitude_deg")
    turn = HALF_A_YEAR if latitude.number * row.latitude < 0 else 0
    coldest, hottest = ((month - 1 + turn) % 12 + 1 for month in (row.coldest, row.hottest))
    if sun_hours is None:
        clear = [row.figure("K", row.clearness[(i + turn) % 12], "", f"clearness in {sun.MONTHS[i]}") for i in range(12)]
        beyond = []
    else:
        above = sun.above_the_air(latitude.number)
        typed = list(zip(sun_hours, above, strict=True))
        clear = [of_sun_hours(i, hours, most, latitude) for i, (hours, most) in enumerate(typed)]
        beyond = [i + 1 for i, (hours, most) in enumerate(typed) if hours > constant("clearest") * most + 1e-9]
    place = sun.Place(latitude.number, tuple(k.number for k in clear))
    return SunSizing(place, latitude, tuple(clear), tuple(beyond), coldest, hottest)


def of_sun_hours(month: int, hours: float, above: float, latitude: Figure) -> Figure:
    """The clearness of a month (from 0) of which the hours of sun were typed, no more than that of the clearest sky."""
    name = sun.MONTHS[month]
    typed = Figure.decided("h_0", hours, "h", f"full sun on a level plane, {name}", f"{AT}/sun_hours")
    if above <= 0:
        return Figure.of("K", 0.0, "", f"clearness in {name}", how="the sun does not rise", inputs={"φ": latitude})
    clear = min(hours / above, constant("clearest"))
    how = "hours typed over those that fall above the air there, at most that of the clearest sky"
    return Figure.of("K", clear, "", f"clearness in {name}", how=how, inputs={"h_0": typed, "φ": latitude})
