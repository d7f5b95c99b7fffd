"""A run of cable as it is decided, wherever in the station it lies."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.document import YES_NO, Decisions, Said, member
from kegcart.core.reference import wires
from kegcart.core.units import Count, Length, reader

Gauge = Annotated[str, member(frozenset(wires()), "gauge"), Field(examples=["4 AWG", "16 mm²"])]
Insulation = Annotated[Literal[60, 75, 90, 105, 125, 200], Said(tuple((t, f"{t} °C") for t in (60, 75, 90, 105, 125, 200)))]
Terminal = Annotated[Literal[60, 75, 90, 105], Said(tuple((t, f"{t} °C") for t in (60, 75, 90, 105)))]
Material = Annotated[
    Literal["pvc", "cross-linked", "silicone"], Said((("pvc", "PVC"), ("cross-linked", "cross-linked"), ("silicone", "silicone")))
]
Stud = Literal["M4", "M5", "M6", "M8", "M10"]
Colour = Literal["red", "black", "yellow", "blue", "brown", "green", "white", "orange"]
Wall = Annotated[Literal["grommet", "bare"], Said((("grommet", "in a grommet"), ("bare", "bare")))]


class Run(Decisions):
    """The cable to a part, one way: both poles are alike."""

    length_m: Length = 0.5
    gauge: Gauge | None = Field(None, description="null: auto")
    parallel: Annotated[int, Field(ge=1, le=4), BeforeValidator(reader(""))] = Field(1, description="like cables side by side")
    insulation_c: Insulation = 105
    insulation: Material | None = Field(
        None, description="what it is insulated with; null: PVC up to 105 °C, cross-linked at 125 °C, silicone at 200 °C"
    )
    terminal_c: Terminal | None = Field(None, description="temperature limit of the terminals at its ends; null: the table's")
    bundled: Count = Field(2, description="current-carrying conductors in the same bundle")
    sheathed: Annotated[bool, YES_NO] | None = Field(
        None, description="sheathed and fixed over its whole length; null: a short tap to a branch fuse is, all else is not"
    )
    lug: Stud | None = Field(None, description="hole of its lugs; null: as the stud")
    wall: Wall | None = Field(None, description="how it goes through a wall; null: it does not")
    colour: Colour | None = Field(None, description="null: red for positive, with black for negative")

    @property
    def limit_c(self) -> float:
        """The temperature in °C that insulation and terminals both stand."""
        return min(self.insulation_c, self.terminal_c or self.insulation_c)

    @property
    def material(self) -> Material:
        """What it is insulated with; what is only known by its temperature counts as the poorest that is made for it.

        Source: engineering practice: "105 °C" alone may be PVC.
        """
        usual: dict[int, Material] = {125: "cross-linked", 200: "silicone"}
        return self.insulation or usual.get(self.insulation_c, "pvc")
