"""What every part of the power path is: fed by another part through a run of cable."""

from typing import Annotated, Literal

from pydantic import Field

from kegcart.core.document import Decisions, Said, member
from kegcart.core.electrical.run import Run
from kegcart.core.reference import busbars, connectors, families
from kegcart.core.text import Name
from kegcart.core.units import Id

PACK = "pack"
"""The id that stands for the pack, at the root of the tree."""


FamilyKey = Annotated[str, member(frozenset(families()), "fuse or breaker family"), Field(examples=["class-t"])]
Section = Annotated[str, member(frozenset(busbars()), "busbar section"), Field(examples=["20×3"])]
ConnectorKey = Annotated[str, member(frozenset(connectors()), "connector"), Field(examples=["post-m8"])]
Pins = Annotated[Literal["shrouded", "exposed"], Said((("shrouded", "shrouded"), ("exposed", "bare and live")))]
Negative = Literal["busbar", "post"]
Reach = Annotated[
    Literal["outside", "inside", "two hands"],
    Said((("outside", "outside, with one hand"), ("inside", "with the lid open"), ("two hands", "with two hands"))),
]


RUN_OWES = ("power.wire-unprotected", "power.drop")
"""The checks that every run of cable must be given."""
BEHIND_A_FUSE_OWES = ("power.withstand",)
"""And one that a protection opens besides."""


class Fed(Decisions):
    """A part that hangs in the tree: `feed` is the id of the part before it, or `pack`."""

    part: str
    name: Name
    feed: Id
    run: Run = Field(default_factory=Run)
