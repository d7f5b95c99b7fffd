"""What the pack is made of."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.document import Part
from kegcart.core.units import Charge, Current, Fraction, Mass, Money, Resistance, reader

ChemistryKey = Literal["lfp", "nmc"]
Series = Annotated[int, BeforeValidator(reader("")), Field(ge=1, le=32)]
Parallel = Annotated[int, BeforeValidator(reader("")), Field(ge=1, le=200)]


class Planning(Part):
    """What both forms of pack share: how far it is discharged and how aged it is planned for."""

    chemistry: ChemistryKey = "lfp"
    depth: Fraction | None = Field(None, ge=0.05, description="planned depth of discharge; null: the chemistry's daily window")
    age_factor: Fraction | None = Field(None, ge=0.1, description="share of new capacity planned for; null: typical")


class Cell(Part):
    """One cell by its sheet; null where the typical figure of its chemistry serves."""

    shape: Literal["prismatic", "cylindrical"] = "prismatic"
    capacity_ah: Charge = 100
    resistance_mohm: Resistance | None = Field(None, description="at 1 kHz")
    continuous_a: Current | None = Field(None, description="continuous discharge limit of the sheet, A")
    mass_kg: Mass | None = None
    price: Money | None = None


class CellPack(Planning):
    """Loose cells built up to S groups of P."""

    form: Literal["cells"] = "cells"
    cell: Cell = Field(default_factory=Cell)
    series: Series | None = None
    parallel: Parallel | None = None
    board_a: Current | None = Field(None, description="continuous rating of the protection board, A; null: auto")


class BatteryPack(Planning):
    """One finished battery with its own board, by its sheet."""

    form: Literal["battery"]
    series: Series = Field(4, description="cells in series inside")
    capacity_ah: Charge = 100
    continuous_a: Current = 100
    burst_a: Current | None = Field(None, description="null: twice the continuous current")
    resistance_mohm: Resistance | None = Field(None, description="whole battery, DC; null: typical of its cells and board")
    mass_kg: Mass | None = None
    price: Money | None = None


Pack = Annotated[CellPack | BatteryPack, Field(discriminator="form")]
