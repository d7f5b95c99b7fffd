"""The power path: a tree of parts from the posts of the pack to the last socket.

Every part names the part that feeds it and the run of cable that leads to it. The negative
side mirrors the tree: a part's negative goes to the negative busbar, behind the shunt,
unless it is taken straight to the post.
"""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from kegcart.core.document import Part
from kegcart.core.reference import busbars, connectors, families, wires
from kegcart.core.units import Count, Current, Id, Length, Name, Power, Voltage, reader

PACK = "pack"


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
Insulation = Literal[60, 75, 90, 105, 125, 200]


class Run(Part):
    """The cable to a part, one way: both poles are alike."""

    length_m: Length = 0.5
    gauge: Gauge | None = Field(None, description="null: auto")
    insulation_c: Insulation = 105
    bundled: Count = Field(2, description="current-carrying conductors in the same bundle")


class Fed(Part):
    """A part that hangs in the tree: `feed` is the id of the part before it, or `pack`."""

    name: Name
    feed: Id
    run: Run = Field(default_factory=Run)


class Protection(Fed):
    """A fuse or breaker in the positive line."""

    part: Literal["protection"]
    rating_a: Current | None = None
    family: FamilyKey | None = None


class Switch(Fed):
    """A switch in the positive line."""

    part: Literal["switch"]
    rating_a: Current | None = None


class Busbar(Fed):
    """A positive busbar; its twin carries the negatives."""

    part: Literal["busbar"]
    section: Section | None = None


class FuseBlock(Fed):
    """A block in which circuits are fused one by one; protections fed from it sit in it."""

    part: Literal["fuse_block"]
    rating_a: Current | None = None
    negative: Literal["busbar", "post"] = "busbar"


class Inverter(Fed):
    """An inverter. Figures left null are typical of its class."""

    part: Literal["inverter"]
    rating_w: Power | None = Field(None, ge=10)
    surge_w: Power | None = Field(None, ge=10)
    idle_w: Power | None = None
    cutoff_v: Voltage | None = Field(None, description="low-voltage cut-off; null: auto")
    left_on: bool = Field(False, description="stays on around the clock, not only while AC loads are scheduled")
    negative: Literal["busbar", "post"] = "busbar"


class Converter(Fed):
    """A converter from pack voltage to regulated 12 V, limited to its rating."""

    part: Literal["converter"]
    rating_a: Current | None = None
    negative: Literal["busbar", "post"] = "busbar"


class Outlet(Fed):
    """One or more like sockets on the outside. `ways` share the circuit."""

    part: Literal["outlet"]
    connector: ConnectorKey | None = None
    usb: bool = Field(False, description="a USB module fed at pack voltage")
    ways: Annotated[int, BeforeValidator(reader("")), Field(ge=1, le=12)] = 1
    negative: Literal["busbar", "post"] = "busbar"


class Shunt(Part):
    """The meter's shunt between the pack's negative post and the negative busbar."""

    rating_a: Current | None = None


Node = Annotated[Protection | Switch | Busbar | FuseBlock | Inverter | Converter | Outlet, Field(discriminator="part")]

#: What may feed what.
FEEDS: dict[str, frozenset[str]] = {
    "protection": frozenset({PACK, "protection", "switch", "busbar", "fuse_block", "converter"}),
    "switch": frozenset({PACK, "protection", "switch", "busbar", "fuse_block"}),
    "busbar": frozenset({PACK, "protection", "switch"}),
    "fuse_block": frozenset({PACK, "protection", "switch", "busbar"}),
    "inverter": frozenset({PACK, "protection", "switch", "busbar", "fuse_block"}),
    "converter": frozenset({PACK, "protection", "switch", "busbar", "fuse_block"}),
    "outlet": frozenset({PACK, "protection", "switch", "busbar", "fuse_block", "inverter", "converter"}),
}
PART_NAMES = {
    PACK: "the pack",
    "protection": "a fuse or breaker",
    "switch": "a switch",
    "busbar": "a busbar",
    "fuse_block": "a fuse block",
    "inverter": "an inverter",
    "converter": "a converter",
    "outlet": "an outlet",
}


class PowerPath(Part):
    """The tree of parts by id, and the shunt."""

    network: dict[Id, Node] = Field(default_factory=dict, max_length=120)
    shunt: Shunt | None = None

    @model_validator(mode="after")
    def is_tree(self) -> "PowerPath":
        """Every part is fed by a part that may feed it, and the pack is at the root."""
        if PACK in self.network:
            raise ValueError("no part may be called 'pack': that is the source")
        behind_converter: dict[str, bool] = {PACK: False}
        for key, node in self.network.items():
            if node.feed != PACK and node.feed not in self.network:
                raise ValueError(f"'{key}' is fed from '{node.feed}', which is not there")
            feeder = PACK if node.feed == PACK else self.network[node.feed].part
            if feeder not in FEEDS[node.part]:
                raise ValueError(f"'{key}': {PART_NAMES[node.part]} cannot be fed from {PART_NAMES[feeder]}")
        for key in self.network:
            seen: list[str] = []
            here = key
            while here not in behind_converter:
                if here in seen:
                    raise ValueError(f"'{here}' feeds itself")
                seen.append(here)
                here = self.network[here].feed
            for step in reversed(seen):
                node = self.network[step]
                fed_by = self.network.get(node.feed)
                behind = behind_converter[node.feed] or (fed_by is not None and fed_by.part == "converter")
                if behind and (node.part not in ("protection", "outlet") or (node.part == "outlet" and node.usb)):
                    raise ValueError(f"'{step}': behind a converter only fuses and 12 V outlets can stand")
                behind_converter[step] = behind
        return self
