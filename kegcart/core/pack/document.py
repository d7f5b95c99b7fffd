"""What the pack is made of, in four forms: one battery, batteries together, modules together, loose cells."""

from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, StringConstraints, model_validator

from kegcart.core.document import YES_NO, Decisions, Said, few
from kegcart.core.electrical.run import Run
from kegcart.core.reference import chemistries
from kegcart.core.text import Printable
from kegcart.core.units import Charge, Current, Fraction, Id, Length, Mass, Money, Resistance, Size, SmallCurrent, Voltage, reader

ChemistryKey = Literal["lfp", "nmc", "lto", "na-ion", "agm", "flooded", "starting"]
Series = Annotated[int, Field(ge=1, le=32), BeforeValidator(reader(""))]
Parallel = Annotated[int, Field(ge=1, le=200), BeforeValidator(reader(""))]
Few = Annotated[int, Field(ge=1, le=16), BeforeValidator(reader(""))]
Many = Annotated[int, Field(ge=1, le=64), BeforeValidator(reader(""))]
"""Batteries or modules in series, or strings of them in parallel."""
CellVoltage = Annotated[float, Field(ge=0, le=6), BeforeValidator(reader("V"))]
ResistanceBy = Annotated[Literal["1khz", "dc"], Said((("1khz", "at 1 kHz"), ("dc", "by a DC step")))]
Takeoff = Annotated[
    Literal["same side", "opposite corners", "equal leads"],
    Said(
        (
            ("opposite corners", "at opposite corners"),
            ("same side", "at one side"),
            ("equal leads", "by equal leads to one point"),
        )
    ),
]


class CurvePoint(Decisions):
    """One point of a discharge: state of charge from 1 to 0, voltage of one cell in V."""

    soc: Fraction
    v: CellVoltage


class Curve(Decisions):
    """The builder's own discharge, of one cell: rested, or at a current that its resistance is then added back for."""

    current_a: Annotated[float, Field(ge=0, le=1000), BeforeValidator(reader("A"))] = 0
    points: list[CurvePoint] = Field(min_length=3, max_length=200)

    @model_validator(mode="after")
    def runs_one_way(self) -> "Curve":
        """Errors: ValueError where two points share a charge, or the voltage rises while it is discharged."""
        points = sorted(self.points, key=lambda p: p.soc)
        for low, high in pairwise(points):
            if low.soc == high.soc:
                raise ValueError(f"two points stand at {low.soc:.1%} charge")
            if low.v > high.v + 0.02:
                raise ValueError(
                    f"the voltage rises from {high.v:g} to {low.v:g} V while it is discharged, at {low.soc:.0%} charge"
                )
        self.points = points
        return self


class Planning(Decisions):
    """What all forms of pack share: how far it is discharged and how aged it is planned for."""

    form: str
    chemistry: ChemistryKey = "lfp"
    depth: Annotated[float, Field(ge=0.05, le=1), BeforeValidator(reader("%"))] | None = Field(
        None, description="planned depth of discharge; null: the chemistry's daily window"
    )
    age_factor: Annotated[float, Field(ge=0.1, le=1), BeforeValidator(reader("%"))] | None = Field(
        None, description="share of new capacity planned for; null: typical"
    )
    curve: Curve | None = Field(None, description="own discharge curve of one cell; null: typical of the chemistry")
    gas_opening_cm2: Annotated[float, Field(gt=0, le=10_000), BeforeValidator(reader("cm²"))] | None = Field(
        None, description="lead: openings that let its gas out, one low and one high, each so many cm²; null: none"
    )

    @model_validator(mode="before")
    @classmethod
    def cells_as_sold(cls, data: Any) -> Any:
        """A finished battery whose cells are not said has as many as one of its chemistry usually has: lead six, not four."""
        if isinstance(data, dict) and data.get("form", "cells") != "cells" and data.get("chemistry") in chemistries():
            battery = data.get("battery", {})
            if isinstance(battery, dict) and "series" not in battery:
                return {**data, "battery": {**battery, "series": chemistries()[data["chemistry"]].cells_12v}}
        return data


class Cell(Decisions):
    """One cell by its sheet; null where the typical figure of its chemistry serves."""

    shape: Literal["prismatic", "cylindrical", "pouch"] = "prismatic"
    capacity_ah: Charge = 100
    resistance_mohm: Resistance | None = None
    resistance_by: ResistanceBy = "1khz"
    continuous_a: Current | None = Field(None, description="continuous discharge limit of the sheet, A")
    charge_a: Current | None = Field(None, description="charge limit of the sheet, A")
    mass_kg: Mass | None = None
    price: Money | None = None
    width_mm: Size | None = Field(None, description="diameter of a cylindrical cell")
    thickness_mm: Size | None = None
    height_mm: Size | None = None
    reclaimed: bool = False


class Board(Decisions):
    """The protection board; null: chosen to serve, or typical of boards that size."""

    continuous_a: Current | None = None
    burst_a: Current | None = None
    charge_a: Current | None = None
    series: Series | None = Field(None, description="cells it is made for; null: as many as the pack has")
    chemistry: ChemistryKey | None = Field(None, description="chemistry of its thresholds; null: the pack's")
    cell_min_v: CellVoltage | None = Field(None, description="it opens below this; null: the chemistry's least")
    cell_max_v: CellVoltage | None = Field(None, description="it stops charging above this; null: the chemistry's greatest")
    balance_ma: SmallCurrent | None = None
    own_draw_ma: SmallCurrent | None = None
    resistance_mohm: Resistance | None = None
    cold_lock: Annotated[bool, YES_NO] | None = Field(
        None, description="locks charging in the cold; null: where the site asks for it"
    )
    sense: Run = Field(default_factory=lambda: Run(length_m=0.5), description="each sense lead, from its cell to the board")
    sense_fused: bool = Field(True, description="each sense lead has a small fuse at its cell")


Material = Annotated[
    Literal["nickel", "plated", "copper"],
    Said((("nickel", "pure nickel strip"), ("plated", "nickel-plated steel strip"), ("copper", "copper"))),
]


class Link(Decisions):
    """The link of one cell to the next group; null: sized."""

    material: Material | None = None
    width_mm: Size | None = None
    thickness_mm: Size | None = None
    layers: Few | None = None
    resistance_mohm: Annotated[float, Field(ge=0, le=100), BeforeValidator(reader("mΩ"))] | None = Field(
        None, description="measured, with its joints"
    )


MeasuredCapacity = Annotated[float, Field(gt=0, le=5000), BeforeValidator(reader("Ah"))]
MeasuredResistance = Annotated[float, Field(gt=0, le=10_000), BeforeValidator(reader("mΩ"))]
CellLabel = Annotated[str, StringConstraints(strip_whitespace=True, max_length=40), Printable]


class PlacedCell(Decisions):
    """A measured cell in its place; `reject` says why it should not be there."""

    label: Annotated[CellLabel, Field(min_length=1)]
    capacity_ah: MeasuredCapacity
    resistance_mohm: MeasuredResistance | None = None
    resting_v: CellVoltage | None = None
    reject: Annotated[str, Field(max_length=200), Printable] = ""


class Group(Decisions):
    """One group of cells in parallel, in the order of their places in the holder."""

    cells: list[PlacedCell] = Field(min_length=1, max_length=200)


Gathers = Annotated[
    Literal["middle", "end"], Said((("middle", "in the middle of the group"), ("end", "at one end of the group")))
]


class CellPack(Planning):
    """Loose cells built up to S groups of P."""

    form: Literal["cells"] = "cells"
    cell: Cell = Field(default_factory=Cell)
    series: Series | None = None
    parallel: Parallel | None = None
    board: Board = Field(default_factory=Board)
    link: Link = Field(default_factory=Link)
    collector: Link = Field(default_factory=Link, description="the bar that gathers an end group to its take-off; null: sized")
    gathers: Gathers = Field("middle", description="where on an end group the take-off is")
    cell_fused: bool = Field(False, description="each cell hangs on its group by a small fuse of its own")
    groups: Annotated[dict[Id, Group], few(32)] = Field(
        default_factory=dict, max_length=32, description="sorted from the rack; empty: all cells alike"
    )
    rows: Few | None = Field(
        None, description="rows in which its groups stand side by side; null: as few as are no longer than 0.9 m"
    )
    holder: Few = Field(1, description="cells of a group in one holder, which are put in and taken out together")
    holder_groups: Series = Field(1, description="groups that one holder reaches over; 1: it holds cells of one group")


class Battery(Decisions):
    """A finished battery, or a module with its own board, by its sheet; null where the typical figure serves."""

    series: Series = Field(4, description="cells in series inside")
    capacity_ah: Charge = 100
    continuous_a: Current = 100
    burst_a: Current | None = Field(None, description="null: twice the continuous current")
    charge_a: Current | None = Field(None, description="null: typical of the chemistry")
    resistance_mohm: Resistance | None = Field(None, description="whole battery, DC; null: typical of its cells and board")
    fault_a: Current | None = Field(
        None, description="greatest current into a short by its sheet, where its board limits it; null: nothing does"
    )
    mass_kg: Mass | None = None
    price: Money | None = None
    width_mm: Size | None = None
    depth_mm: Size | None = None
    height_mm: Size | None = None
    series_limit: Many | None = Field(None, description="how many its maker allows in series; null: not known")
    parallel_limit: Many | None = Field(None, description="how many its maker allows in parallel; null: not known")
    cold_lock: Annotated[bool, YES_NO] | None = Field(None, description="its board locks charging in the cold; null: not known")
    sleeps: bool = Field(False, description="its board sleeps until a wake-up line is pulled")
    own_draw_ma: SmallCurrent | None = None


class BatteryPack(Planning):
    """One finished battery with its own board."""

    form: Literal["battery"]
    battery: Battery = Field(default_factory=Battery)


class Unit(Decisions):
    """One battery or module as measured, where it differs from the sheet."""

    capacity_ah: Charge | None = None
    resistance_mohm: Resistance | None = None
    resting_v: Voltage | None = Field(None, description="resting voltage before joining, V")
    year: Annotated[int, Field(ge=1980, le=2100)] | None = None


class StringOfUnits(Decisions):
    """One of the strings in parallel."""

    protected: bool = Field(True, description="has its own fuse or breaker at its post")
    lead_m: Length | None = Field(None, description="its own lead to the joining point, one way, m; null: as all others")
    wake_out: bool = Field(False, description="its wake-up line is brought out")
    units: dict[Id, Unit] = Field(default_factory=dict, max_length=64, description="u1, u2... counted from the negative end")


class Bank(Planning):
    """Finished batteries, or modules with their own boards, in series and in parallel."""

    form: Literal["batteries", "modules"]
    battery: Battery = Field(default_factory=Battery)
    in_series: Many = 1
    parallel: Many | None = None
    strings: dict[Id, StringOfUnits] = Field(
        default_factory=dict, max_length=64, description="s1, s2..., where one differs from the rest"
    )
    takeoff: Takeoff | None = Field(None, description="where the load is taken off; null: opposite corners")
    link: Run = Field(default_factory=lambda: Run(length_m=0.25), description="from one string to the next, one pole")
    lead: Run = Field(default_factory=lambda: Run(length_m=0.3), description="own lead of each string, from its fuse, one way")


Pack = Annotated[CellPack | BatteryPack | Bank, Field(discriminator="form")]
