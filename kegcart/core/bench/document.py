"""How the station is rehearsed, and what was measured of it."""

from pydantic import Field

from kegcart.core.document import Decisions
from kegcart.core.measured import MeasuredFigures
from kegcart.core.units import Days, Fraction


class Bench(Decisions):
    """Settings of the simulation. Null: typical, or worked out from the design."""

    days: Days = 3
    start_charge: Fraction = Field(1.0, ge=0.05, description="state of charge at the start")
    measured: MeasuredFigures = Field(default_factory=dict, description="of the built station, in place of what tables say")
