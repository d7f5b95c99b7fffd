"""How the station is rehearsed, and what was measured of it."""

from typing import Annotated

from pydantic import BeforeValidator, Field

from kegcart.core.document import Decisions, Said, few
from kegcart.core.measured import MeasuredFigures
from kegcart.core.text import Name
from kegcart.core.units import Days, Fraction, Id, reader


class TestLoad(Decisions):
    """Something at hand that a test can be loaded with, which is no load of the build: a kettle, a heater, a lamp."""

    name: Name
    watts: Annotated[float, Field(ge=1, le=20_000), BeforeValidator(reader("W"))] = 100
    count: Annotated[int, Field(ge=1, le=20), BeforeValidator(reader(""))] = 1
    ac: Annotated[bool, Said(((True, "mains"), (False, "the pack's DC")))] = True


class Bench(Decisions):
    """Settings of the simulation. Null: typical, or worked out from the design."""

    days: Days = 3
    start_charge: Fraction = Field(1.0, ge=0.05, description="state of charge at the start")
    test_loads: Annotated[dict[Id, TestLoad], few(20)] = Field(
        default_factory=dict, description="at hand to load a test with, besides the loads of the build"
    )
    measured: MeasuredFigures = Field(default_factory=dict, description="of the built station, in place of what tables say")
