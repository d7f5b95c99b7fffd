"""The power path: a tree of parts from the posts of the pack to the last socket.

Every part names the part that feeds it and the run of cable that leads to it. The negative
side mirrors the tree: a part's negative goes to the negative busbar, behind the shunt,
unless it is taken straight to the post. A second bank is the root of a tree of its own; a
selector lets a branch be fed from either.
"""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from kegcart.core.document import Part
from kegcart.core.pack.document import ChemistryKey, Series
from kegcart.core.reference import busbars, connectors, families, wires
from kegcart.core.units import Charge, Count, Current, Id, Length, Name, Power, Resistance, SmallCurrent, Voltage, reader

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
Terminal = Literal[60, 75, 90, 105]
Stud = Literal["M4", "M5", "M6", "M8", "M10"]
Colour = Literal["red", "black", "yellow", "blue", "brown", "green", "white", "orange"]
Pins = Literal["shrouded", "exposed"]


class Run(Part):
    """The cable to a part, one way: both poles are alike."""

    length_m: Length = 0.5
    gauge: Gauge | None = Field(None, description="null: auto")
    parallel: Annotated[int, BeforeValidator(reader("")), Field(ge=1, le=4)] = Field(1, description="like cables side by side")
    insulation_c: Insulation = 105
    terminal_c: Terminal | None = Field(None, description="temperature limit of the terminals at its ends; null: the table's")
    bundled: Count = Field(2, description="current-carrying conductors in the same bundle")
    sheathed: bool = Field(False, description="sheathed and fixed over its whole length")
    lug: Stud | None = Field(None, description="hole of its lugs; null: as the stud")
    wall: Literal["grommet", "bare"] | None = Field(None, description="how it goes through a wall; null: it does not")
    colour: Colour | None = Field(None, description="null: red for positive, with black for negative")


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
    polarised: bool = Field(False, description="a breaker that opens safely in one direction of current only")


class Switch(Fed):
    """A switch or relay in the positive line; with `cutoff_v` it disconnects its loads by itself."""

    part: Literal["switch"]
    rating_a: Current | None = None
    dc_rated: bool = True
    reach: Literal["outside", "inside", "two hands"] = Field("outside", description="how one gets at it with the lid shut")
    relay: bool = False
    coil_w: Power | None = Field(None, description="draw of its coil while closed; null: typical of a relay")
    cutoff_v: Voltage | None = Field(None, description="opens by itself below this voltage; null: it does not")


class Selector(Fed):
    """A switch that feeds its branch from one source or another; `feed` is where it stands, `other` the other way."""

    part: Literal["selector"]
    other: Id
    rating_a: Current | None = None
    interlocked: bool = Field(True, description="breaks one before it makes the other")


class Plug(Fed):
    """A quick connect in the line: what is behind it can be pulled off."""

    part: Literal["plug"]
    connector: ConnectorKey | None = None
    pins: Pins = Field("shrouded", description="contacts on the side of the source")


class Busbar(Fed):
    """A positive busbar; its twin carries the negatives."""

    part: Literal["busbar"]
    section: Section | None = None
    studs: Annotated[int, BeforeValidator(reader("")), Field(ge=1, le=24)] | None = Field(
        None, description="studs it has; null: one for each lug"
    )


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
    waveform: Literal["pure", "modified"] = "pure"
    precharge: bool | None = Field(
        None, description="its capacitors are charged through a resistor first; null: where it is large"
    )
    rcd: bool | None = Field(None, description="residual-current protection on its outlets; null: where the site is wet")
    bond: Literal["as its manual says", "none", "not known"] = Field("not known", description="neutral-to-earth bond")
    transfer: Literal["none", "interlocked", "not interlocked"] = Field(
        "none", description="transfer switch to the mains or another source"
    )
    negative: Literal["busbar", "post"] = "busbar"


class Converter(Fed):
    """A converter from pack voltage to regulated 12 V, limited to its rating."""

    part: Literal["converter"]
    rating_a: Current | None = None
    idle_w: Power | None = Field(None, description="no-load draw; null: typical")
    cutoff_v: Voltage | None = Field(None, description="switches off below this input voltage; null: it does not")
    window_min_v: Voltage | None = Field(None, description="least input voltage of its sheet")
    window_max_v: Voltage | None = Field(None, description="greatest input voltage of its sheet")
    negative: Literal["busbar", "post"] = "busbar"


class Outlet(Fed):
    """One or more like sockets on the outside. `ways` share the circuit."""

    part: Literal["outlet"]
    connector: ConnectorKey | None = None
    usb: bool = Field(False, description="a USB module fed at pack voltage")
    ways: Annotated[int, BeforeValidator(reader("")), Field(ge=1, le=12)] = 1
    pins: Pins = "shrouded"
    breaker_a: Current | None = Field(None, description="breaker of an AC outlet; null: chosen where a cable leads to it")
    charge_in_a: Current | None = Field(None, description="charged in through this outlet with so many A; null: it is not")
    negative: Literal["busbar", "post"] = "busbar"


class Input(Fed):
    """Where current is brought in: a charger, a solar controller, a vehicle's converter, another station."""

    part: Literal["input"]
    source: Literal["mains charger", "solar", "vehicle", "another station"] = "mains charger"
    current_a: Current = 10
    negative: Literal["busbar", "post"] = "busbar"


class Shunt(Part):
    """The meter's shunt between the pack's negative post and the negative busbar."""

    rating_a: Current | None = None
    own_draw_ma: SmallCurrent | None = Field(None, description="draw of its meter; null: typical")


class SecondBank(Part):
    """Another bank with a job of its own, by its sheet."""

    name: Name
    job: Literal["short high current", "house"] = "house"
    chemistry: ChemistryKey = "lfp"
    series: Series = 4
    capacity_ah: Charge = 100
    continuous_a: Current = 100
    burst_a: Current | None = Field(None, description="null: twice the continuous current")
    resistance_mohm: Resistance | None = Field(None, description="null: typical of its chemistry")


Node = Annotated[
    Protection | Switch | Selector | Plug | Busbar | FuseBlock | Inverter | Converter | Outlet | Input,
    Field(discriminator="part"),
]

_LINE = frozenset({PACK, "protection", "switch", "selector", "plug", "busbar", "fuse_block"})
#: What may feed what; a second bank stands for the pack.
FEEDS: dict[str, frozenset[str]] = {
    "protection": _LINE | {"converter"},
    "switch": _LINE | {"converter"},
    "selector": _LINE,
    "plug": _LINE,
    "busbar": _LINE - {"busbar"},
    "fuse_block": _LINE | {"converter"},
    "inverter": _LINE,
    "converter": _LINE,
    "outlet": _LINE | {"inverter", "converter"},
    "input": _LINE,
}
PART_NAMES = {
    PACK: "the pack",
    "protection": "a fuse or breaker",
    "switch": "a switch",
    "selector": "a source selector",
    "plug": "a quick connect",
    "busbar": "a busbar",
    "fuse_block": "a fuse block",
    "inverter": "an inverter",
    "converter": "a converter",
    "outlet": "an outlet",
    "input": "an input",
}
#: What may stand behind a converter.
REGULATED = frozenset({"protection", "switch", "fuse_block", "outlet"})


class PowerPath(Part):
    """The tree of parts by id, the shunt, further banks, and the bond to the chassis."""

    network: dict[Id, Node] = Field(default_factory=dict, max_length=120)
    shunt: Shunt | None = None
    banks: dict[Id, SecondBank] = Field(default_factory=dict, max_length=3)
    chassis_bond: bool = Field(False, description="the negative is bonded to a metal box or chassis, at one point")

    @model_validator(mode="after")
    def is_tree(self) -> "PowerPath":
        """Every part is fed by a part that may feed it, and the pack is at the root."""
        sources = {PACK, *self.banks}
        if PACK in self.banks or sources & set(self.network):
            raise ValueError("no part or bank may be called 'pack', or a part like a bank: those are the sources")
        behind_converter: dict[str, bool] = dict.fromkeys(sources, False)
        for key, node in self.network.items():
            if node.feed not in sources and node.feed not in self.network:
                raise ValueError(f"'{key}' is fed from '{node.feed}', which is not there")
            if isinstance(node, Selector) and (node.other not in sources and node.other not in self.network):
                raise ValueError(f"'{key}' selects '{node.other}', which is not there")
            feeder = PACK if node.feed in sources else self.network[node.feed].part
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
                if behind and (node.part not in REGULATED or (node.part == "outlet" and node.usb)):
                    raise ValueError(f"'{step}': behind a converter only fuses, switches, blocks and 12 V outlets can stand")
                behind_converter[step] = behind
        for key, node in self.network.items():
            if isinstance(node, Selector):
                here = node.other
                while here in self.network:
                    if here == key:
                        raise ValueError(f"'{key}' selects a part that it feeds itself")
                    here = self.network[here].feed
        return self
