"""Figures of the built station that were measured: decided in place of what tables say, as long as it is still the station that was measured."""

from collections.abc import Mapping
from typing import Annotated, Any, Final, Literal

from pydantic import AfterValidator, Field, StringConstraints

from kegcart.core.document import Decisions
from kegcart.core.figure import Basis, Figure, Sheet
from kegcart.core.text import Printable
from kegcart.core.units import write_quantity

MeasuredKey = Literal[
    "resistance",
    "late_share",
    "late_s",
    "capacity",
    "path",
    "idle",
    "linear",
    "square",
    "standing",
    "walls",
    "box_heat",
    "pack_surface",
    "pack_heat",
]
"""What a load test finds out, by the keys of the bench (`kegcart.core.bench.station`)."""
UNITS: Final[Mapping[MeasuredKey, str]] = {
    "resistance": "Ω",
    "late_share": "share",
    "late_s": "s",
    "capacity": "Ah",
    "path": "Ω",
    "idle": "W",
    "linear": "share",
    "square": "share",
    "standing": "W",
    "walls": "W/K",
    "box_heat": "J/K",
    "pack_surface": "W/K",
    "pack_heat": "J/K",
}
LABELS: Final[Mapping[MeasuredKey, str]] = {
    "resistance": "resistance of the pack",
    "late_share": "share of it that comes late",
    "late_s": "time constant of the late part",
    "capacity": "capacity at 25 °C",
    "path": "main path, from the posts to its end",
    "idle": "idle draw of the inverter",
    "linear": "its loss that grows with the power, of it",
    "square": "its loss that grows with the square, of full power",
    "standing": "draw while everything is off",
    "walls": "heat through the walls of the box",
    "box_heat": "heat capacity of the box",
    "pack_surface": "heat from the pack to the air inside",
    "pack_heat": "heat capacity of the pack",
}
"""What each is called, in the order in which they are shown."""
TELLS: Final[Mapping[MeasuredKey, str]] = {
    "late_share": "resistance",
    "late_s": "resistance",
    "path": "copper",
    "idle": "rated",
    "linear": "rated",
    "square": "rated",
    "box_heat": "walls",
    "pack_surface": "pack_heat",
}
"""The figure of the design by which it is known whether this is still what was measured; where none is named, that which is measured. copper: the way of
the test, cold, as warm it depends on its load; rated: the rating of its inverter."""
OF_INVERTER: Final[tuple[MeasuredKey, ...]] = ("idle", "linear", "square")
"""What is of the inverter that the figure names."""
TELLING: Final[Mapping[str, tuple[str, str]]] = {
    **{key: (LABELS[key], UNITS[key]) for key in LABELS},
    "rated": ("rating of that inverter", "W"),
    "copper": ("copper of its runs, cold", "Ω"),
}
"""What tells, in words, and its unit."""
RANGES: Final[Mapping[MeasuredKey, tuple[float, float]]] = {
    "resistance": (1e-5, 1),
    "late_share": (0.01, 0.95),
    "late_s": (1, 3600),
    "capacity": (0.1, 20_000),
    "path": (1e-5, 1),
    "idle": (0.01, 1000),
    "linear": (1e-5, 0.9),
    "square": (1e-5, 2),
    "standing": (1e-4, 2000),
    "walls": (0.02, 500),
    "box_heat": (50, 1e7),
    "pack_surface": (0.005, 500),
    "pack_heat": (10, 1e8),
}
"""Between these a figure can be of a station that is carried; the others are mistyped, or in another unit."""
SAME = 0.01
"""A figure of the design that is off by so much or more is that of another part."""


class MeasuredFigure(Decisions):
    """A figure as it was measured, in the unit of its key.

    doubt: its standard uncertainty; null: not said. stands_with: what the design says of the figure that tells (`TELLS`), where that was
    measured; null: it stands whatever the design says. part: the inverter that it is of.
    """

    value: Annotated[float, Field(gt=0, le=1e9)]
    doubt: Annotated[float, Field(gt=0, le=1e9)] | None = None
    stands_with: Annotated[float, Field(gt=0, le=1e9)] | None = None
    part: Annotated[str, StringConstraints(max_length=40)] = ""
    source: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200), Printable]


def possible(key: MeasuredKey, value: float) -> None:
    """Errors: ValueError where a figure cannot be that of a station that is carried."""
    least, most = RANGES[key]
    if not least <= value <= most:
        unit = UNITS[key]
        said = f"{write_quantity(least, unit)} and {write_quantity(most, unit)} (not {write_quantity(value, unit)})"
        raise ValueError(f"the {LABELS[key]} is between {said}")


def all_possible(measured: dict[MeasuredKey, "MeasuredFigure"]) -> dict[MeasuredKey, "MeasuredFigure"]:
    """Errors: ValueError, see `possible`."""
    for key, found in measured.items():
        possible(key, found.value)
    return measured


MeasuredFigures = Annotated[dict[MeasuredKey, MeasuredFigure], AfterValidator(all_possible)]


def stands(found: MeasuredFigure, telling: float) -> bool:
    """Whether a measured figure is still of what the design has: what tells is within 1 % of what it was."""
    return found.stands_with is None or abs(telling - found.stands_with) <= SAME * found.stands_with


def in_force(measured: MeasuredFigures, key: MeasuredKey, telling: float, part: str = "") -> MeasuredFigure | None:
    """The measured figure of a key, where there is one and it still stands. telling: what the design says now of what tells (`TELLS`)."""
    found = measured.get(key)
    return found if found is not None and found.part == part and stands(found, telling) else None


class CannotPutInError(ValueError):
    """A figure that is not put in: its key, and why, as a sentence."""

    def __init__(self, key: str, why: str) -> None:
        super().__init__(why)
        self.key, self.why = key, why

    def __reduce__(self) -> tuple[Any, ...]:
        """It goes whole from one process to another."""
        return CannotPutInError, (self.key, self.why)


def as_assumed(figure: Figure) -> Figure:
    """What the design would take for a figure, had it not been measured."""
    return figure.inputs["x_0"] if figure.basis.kind == "measured" and figure.inputs else figure


def put_measured(measured: MeasuredFigures, sheet: Sheet) -> None:
    """Enter every measured figure, with how far it may be off where that is known."""
    for key, found in measured.items():
        basis, at = Basis("measured", found.source), f"/bench/measured/{key}"
        sheet.put(f"measured/{key}", Figure("x", found.value, UNITS[key], LABELS[key], basis=basis, pointer=f"{at}/value"))
        if found.doubt is not None:
            label = "how far it may be off (standard uncertainty)"
            sheet.put(f"measured/{key}/doubt", Figure("σ", found.doubt, UNITS[key], label, basis=basis, pointer=f"{at}/doubt"))


def as_measured(
    assumed: Figure, measured: MeasuredFigures, key: MeasuredKey, telling: Figure | None = None, part: str = ""
) -> Figure:
    """A figure of the design as it was measured; as it is assumed where it was not, or where that was of another part."""
    found = in_force(measured, key, (telling or assumed).number, part)
    if found is None:
        return assumed
    how = f"measured; without it the design takes {assumed.text}"
    basis, pointer = Basis("measured", found.source), f"/bench/measured/{key}/value"
    return Figure(
        assumed.symbol, found.value, assumed.unit, assumed.label, how=how, inputs={"x_0": assumed}, basis=basis, pointer=pointer
    )
