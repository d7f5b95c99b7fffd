"""What every part of the power path is: fed by another part through a run of cable."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.document import Decisions, Said
from kegcart.core.reference import busbars, connectors, families, wires
from kegcart.core.text import Name
from kegcart.core.units import Count, Id, Length, reader

PACK = "pack"
"""The id that stands for the pack, at the root of the tree."""


def member(names: frozenset[str], what: str) -> BeforeValidator:
    """A validator that takes only keys of a reference table."""

    def check(value: object) -> object:
        if not isinstance(value, str) or value not in names:
            raise ValueError(f"'{value}' is no known {what} (known: {', '.join(sorted(names))})")
        return value

    return BeforeValidator(check)


Gauge = Annotated[str, member(frozenset(wires()), "gauge"), Field(examples=["4 AWG", "16 mm²"])]
FamilyKey = Annotated[str, member(frozenset(families()), "fuse or breaker family"), Field(examples=["class-t"])]
Section = Annotated[str, member(frozenset(busbars()), "busbar section"), Field(examples=["20×3"])]
ConnectorKey = Annotated[str, member(frozenset(connectors()), "connector"), Field(examples=["post-m8"])]
Insulation = Annotated[Literal[60, 75, 90, 105, 125, 200], Said(tuple((t, f"{t} °C") for t in (60, 75, 90, 105, 125, 200)))]
Terminal = Annotated[Literal[60, 75, 90, 105], Said(tuple((t, f"{t} °C") for t in (60, 75, 90, 105)))]
Stud = Literal["M4", "M5", "M6", "M8", "M10"]
Colour = Literal["red", "black", "yellow", "blue", "brown", "green", "white", "orange"]
Pins = Annotated[Literal["shrouded", "exposed"], Said((("shrouded", "shrouded"), ("exposed", "bare and live")))]
Wall = Annotated[Literal["grommet", "bare"], Said((("grommet", "in a grommet"), ("bare", "bare")))]
Negative = Literal["busbar", "post"]


class Run(Decisions):
    """The cable to a part, one way: both poles are alike."""

    length_m: Length = 0.5
    gauge: Gauge | None = Field(None, description="null: auto")
    parallel: Annotated[int, Field(ge=1, le=4), BeforeValidator(reader(""))] = Field(1, description="like cables side by side")
    insulation_c: Insulation = 105
    terminal_c: Terminal | None = Field(None, description="temperature limit of the terminals at its ends; null: the table's")
    bundled: Count = Field(2, description="current-carrying conductors in the same bundle")
    sheathed: bool = Field(False, description="sheathed and fixed over its whole length")
    lug: Stud | None = Field(None, description="hole of its lugs; null: as the stud")
    wall: Wall | None = Field(None, description="how it goes through a wall; null: it does not")
    colour: Colour | None = Field(None, description="null: red for positive, with black for negative")

    @property
    def limit_c(self) -> float:
        """The temperature in °C that insulation and terminals both stand."""
        return min(self.insulation_c, self.terminal_c or self.insulation_c)


RUN_OWES = ("power.wire-unprotected", "power.drop")
"""The checks that every run of cable behind a protection must be given."""


class Fed(Decisions):
    """A part that hangs in the tree: `feed` is the id of the part before it, or `pack`."""

    part: str
    name: Name
    feed: Id
    run: Run = Field(default_factory=Run)
