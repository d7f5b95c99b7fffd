"""What brings energy back into the station."""

from typing import Annotated, Literal

from pydantic import Field

from kegcart.core.charging.climate import Sunshine
from kegcart.core.charging.kinds import AnySource
from kegcart.core.charging.warming import Pad
from kegcart.core.document import Decisions, Said, few
from kegcart.core.units import Id

Goal = Annotated[
    Literal["daily", "full"],
    Said((("daily", "every day, for a long life"), ("full", "to the brim, to balance or for a long day"))),
]
MOST_SOURCES = 12


class Charging(Decisions):
    """All sources by id, in the builder's order, and how far they charge."""

    sources: Annotated[dict[Id, AnySource], few(MOST_SOURCES)] = Field(default_factory=dict, max_length=MOST_SOURCES)
    sun: Sunshine = Field(default_factory=Sunshine, description="how much sun there is where its panels stand")
    pad: Pad = Field(default_factory=Pad, description="heating pad under the pack, fed by what charges it")
    goal: Goal = Field("daily", description="how far it is charged: what automatic set points and currents are chosen for")
