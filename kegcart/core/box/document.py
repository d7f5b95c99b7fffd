"""What is decided of the box: its size and features, where every part stands, what is cut into its faces.

Inside the box x runs from the left to the right, y from the front to the back, z from the floor up, in mm; its origin is the
inner corner at the left, in front, on the floor, measured at the rim where the sides are tapered. On a face places are told as
they are seen from outside: x from its left edge, y up from the inner floor; on lid and floor y from the front.
"""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, StringConstraints, model_validator

from kegcart.core.document import YES_NO, Decisions, Said, few, member
from kegcart.core.reference.boxes import box_materials, fixture_materials, holds
from kegcart.core.text import Name
from kegcart.core.units import AirFlow, Id, Mass, Temperature, reader

Face = Annotated[
    Literal["front", "back", "left", "right", "lid", "floor"],
    Said((("front", "front"), ("back", "back"), ("left", "left"), ("right", "right"), ("lid", "lid"), ("floor", "floor"))),
]
FACES: tuple[Face, ...] = ("front", "back", "left", "right", "lid", "floor")
SIDES = FACES[:4]
"""The faces that stand: their walls may lean in, and the lid splits them."""
OwnFace = Annotated[
    Literal["top", "bottom", "front", "back", "left", "right"],
    Said(
        (
            ("top", "upright"),
            ("front", "on its back"),
            ("back", "on its face"),
            ("left", "on its right side"),
            ("right", "on its left side"),
            ("bottom", "upside down"),
        )
    ),
]
"""The face of a part that is up."""
Turn = Annotated[Literal[0, 90, 180, 270], Said(((0, "as drawn"), (90, "90°"), (180, "180°"), (270, "270°")))]
Sealing = Annotated[
    Literal["none", "splash", "tight"],
    Said((("none", "none (IP20)"), ("splash", "splash-proof (IP54)"), ("tight", "jet-proof (IP65)"))),
]
Colour = Annotated[
    Literal["dark", "grey", "light", "white"],
    Said((("dark", "black or dark"), ("grey", "grey"), ("light", "light"), ("white", "white"))),
]
BoxMaterial = Annotated[str, member(frozenset(box_materials()), "material of a box"), Field(examples=["plastic"])]
FixtureMaterial = Annotated[
    str, member(frozenset(fixture_materials()), "material of a shelf or block"), Field(examples=["plywood"])
]
Hold = Annotated[str, member(frozenset(holds()), "way of holding something down"), Field(examples=["strap"])]
PlaceKey = Annotated[
    str, StringConstraints(pattern=r"^(pack|board|shunt|(part|bank|source):[a-z][a-z0-9-]{0,39})$"), Field(examples=["pack"])
]
"""What stands in a place: the pack, its protection board, the shunt, a part of the power path, a further bank, a charging source."""

Inner = Annotated[float, Field(ge=20, le=3000), BeforeValidator(reader("mm"))]
Offset = Annotated[float, Field(ge=-500, le=3000), BeforeValidator(reader("mm"))]
Thickness = Annotated[float, Field(ge=0.3, le=60), BeforeValidator(reader("mm"))]
Depth = Annotated[float, Field(ge=0, le=1000), BeforeValidator(reader("mm"))]
Extent = Annotated[float, Field(ge=1, le=3000), BeforeValidator(reader("mm"))]
Altitude = Annotated[float, Field(ge=-430, le=6000), BeforeValidator(reader("m"))]
Opening = Annotated[float, Field(ge=0.05, le=2000), BeforeValidator(reader("cm²"))]


class Feature(Decisions):
    """What the box itself has on a face: a latch, a rib. Its place is that of its middle."""

    kind: Annotated[
        Literal["latch", "hinge", "handle", "boss", "rib", "seal", "wheel"],
        Said(
            (
                ("latch", "latch"),
                ("hinge", "hinge"),
                ("handle", "handle"),
                ("boss", "screw boss"),
                ("rib", "rib"),
                ("seal", "seal"),
                ("wheel", "wheel or axle"),
            )
        ),
    ]
    face: Face
    x_mm: Offset
    y_mm: Offset
    width_mm: Extent
    height_mm: Extent
    inside_mm: Depth = Field(0, description="how far it stands into the box")


MOST_FEATURES = 40


class Case(Decisions):
    """The box as it is bought or built."""

    name: Name
    measured: Annotated[Literal["inside", "outside"], Said((("inside", "inside"), ("outside", "outside")))] = Field(
        "inside", description="where its size was measured"
    )
    length_mm: Inner = Field(description="from left to right, at the rim")
    width_mm: Inner = Field(description="from front to back, at the rim")
    height_mm: Inner = Field(description="from the floor to the lid, shut")
    opens: Annotated[Literal["above", "front"], Said((("above", "above, by its lid"), ("front", "in front, by a door")))] = (
        "above"
    )
    taper_mm: Depth = Field(0, description="by how much each side leans in, from that height down to the floor")
    wall_mm: Thickness = 3.0
    lid_mm: Depth = Field(0, description="how much of the height is in the lid; 0: it lies flat on the rim")
    material: BoxMaterial = "plastic"
    colour: Colour = "dark"
    in_sun: Annotated[bool, YES_NO] | None = Field(None, description="it stands in the sun; null: where it is used outdoors")
    mass_kg: Mass = 3.0
    rated_kg: Mass | None = Field(None, description="what it may be loaded with; null: not known")
    sealing: Sealing = "none"
    features: Annotated[dict[Id, Feature], few(MOST_FEATURES)] = Field(default_factory=dict, max_length=MOST_FEATURES)


class Body(Decisions):
    """The size and mass of one part as measured; null: typical of its kind and rating."""

    width_mm: Extent | None = None
    depth_mm: Extent | None = Field(
        None, description="from front to back; of what sits in a face, how far it stands into the box"
    )
    height_mm: Extent | None = None
    mass_kg: Mass | None = None


class Inside(Decisions):
    """A place inside. x, y, z: its corner at the left, in front, below, as it is turned; z counts only on a face, as what stands on
    something is as high as that.
    """

    at: Literal["inside"]
    on: Annotated[str, StringConstraints(pattern=r"^(floor|front|back|left|right|lid|fixture:[a-z][a-z0-9-]{0,39})$")] = Field(
        "floor", description="what it stands on or is fixed to: the floor, a face, or a shelf or block, `fixture:` with its id"
    )
    x_mm: Offset = 0
    y_mm: Offset = 0
    z_mm: Offset = 0
    turn: Turn = 0
    up: OwnFace = "top"
    held: list[Hold] = Field(default_factory=list, max_length=8, description="how it is held, each as often as it is there")
    pinned: bool = Field(False, description="a proposed layout leaves it where it is")


class OnFace(Decisions):
    """A place in a cut-out of a face; x and y are those of its middle."""

    at: Literal["face"]
    face: Face = "front"
    x_mm: Offset = 0
    y_mm: Offset = 0
    turn: Literal[0, 90] = 0
    sealing: Sealing | None = Field(None, description="with its boot or cap; null: as its kind is sold")
    pinned: bool = Field(False, description="a proposed layout leaves it where it is")


Place = Annotated[Inside | OnFace, Field(discriminator="at")]


class Fixture(Decisions):
    """A shelf, divider, bracket, block or piece of foam: a cuboid. x, y, z: its corner at the left, in front, below."""

    name: Name
    material: FixtureMaterial = "plywood"
    x_mm: Offset = 0
    y_mm: Offset = 0
    z_mm: Offset = 0
    width_mm: Extent
    depth_mm: Extent
    height_mm: Extent


class Fitting(Decisions):
    """What is cut into a face besides parts of the power path: a vent, a fan, a grommet."""

    kind: Annotated[
        Literal["vent", "fan", "grommet", "gland", "drain", "relief"],
        Said(
            (
                ("vent", "vent"),
                ("fan", "fan"),
                ("grommet", "grommet"),
                ("gland", "cable gland"),
                ("drain", "drain"),
                ("relief", "relief valve or panel"),
            )
        ),
    ]
    name: Name
    face: Face = "back"
    x_mm: Offset = 0
    y_mm: Offset = 0
    width_mm: Extent = Field(40, description="its diameter where it is round")
    height_mm: Extent | None = Field(None, description="null: it is round")
    inside_mm: Depth = Field(0, description="how far it stands into the box")
    free_cm2: Opening | None = Field(None, description="its free opening; null: a share of its area that is typical of its kind")
    filtered: bool = Field(False, description="it has a filter, which takes a part of its flow")
    sealing: Sealing = "none"
    blows: Annotated[Literal["in", "out"], Said((("in", "into the box"), ("out", "out of the box")))] = "out"
    flow_m3h: AirFlow | None = Field(None, description="of a fan, in free air, m³/h")
    starts: Annotated[
        Literal["thermostat", "always", "inverter"],
        Said((("thermostat", "by a thermostat"), ("always", "it runs always"), ("inverter", "with the inverter"))),
    ] = "thermostat"
    on_c: Temperature | None = Field(None, description="a fan starts above this")
    off_c: Temperature | None = Field(None, description="and stops below this")


MOST_THINGS = 160
MOST_FIXTURES = 20
MOST_FITTINGS = 40


class Enclosure(Decisions):
    """The box with all that stands in it. Places and bodies are by what stands there; one of a part that is gone waits for it."""

    case: Case | None = None
    bodies: Annotated[dict[PlaceKey, Body], few(MOST_THINGS)] = Field(default_factory=dict, max_length=MOST_THINGS)
    places: Annotated[dict[PlaceKey, Place], few(MOST_THINGS)] = Field(default_factory=dict, max_length=MOST_THINGS)
    fixtures: Annotated[dict[Id, Fixture], few(MOST_FIXTURES)] = Field(default_factory=dict, max_length=MOST_FIXTURES)
    fittings: Annotated[dict[Id, Fitting], few(MOST_FITTINGS)] = Field(default_factory=dict, max_length=MOST_FITTINGS)
    pack_last: bool = Field(False, description="the pack goes in last and comes out first: nothing stands over it")
    altitude_m: Altitude = Field(0, description="how high above the sea it is used, m: thin air carries less heat")

    @model_validator(mode="after")
    def stands_on_something(self) -> "Enclosure":
        """Errors: ValueError where a place is on a shelf or block that is not there."""
        for key, place in self.places.items():
            if (
                isinstance(place, Inside)
                and place.on.startswith("fixture:")
                and place.on.removeprefix("fixture:") not in self.fixtures
            ):
                raise ValueError(
                    f"'{key}' stands on '{place.on.removeprefix('fixture:')}', which is no shelf or block of the box"
                )
        return self
