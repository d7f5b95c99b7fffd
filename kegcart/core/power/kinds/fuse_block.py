"""Fuse blocks: circuits fused one by one, with a total rating."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.choice import sized
from kegcart.core.document import Words
from kegcart.core.drawing import Box, Primitive
from kegcart.core.figure import Figure
from kegcart.core.power.fed import Fed, Negative
from kegcart.core.power.kinds.base import LINE, SMALLEST, Choice, Copper, Facts, Label, PartType, needed_current, size_voltage
from kegcart.core.reference import sizes
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Current, Voltage

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


class FuseBlock(Fed):
    """A block in which circuits are fused one by one; protections fed from it sit in it."""

    part: Literal["fuse_block"]
    rating_a: Current | None = None
    voltage_v: Voltage | None = Field(None, description="greatest DC voltage of its sheet; null: chosen to serve")
    negative: Negative = "busbar"


class FuseBlockKind(Copper[FuseBlock]):
    """The duties of a fuse block."""

    key = "fuse_block"
    model = FuseBlock
    facts = Facts(
        words=Words("fuse block", "a fuse block", "a fuse block", "Fuse block"),
        role="spreads",
        fed_by=LINE | {"converter"},
        regulated=True,
        limits=False,
        bolted=True,
        choices=(Choice("rating_a", "rating", "Rating", carries=True), Choice("voltage_v", "voltage", "Voltage rating")),
        fields=(),
        own=("rating_a", "voltage_v"),
        owes=("power.busbar", "power.shunt-bypass", "power.device-voltage"),
        height=26,
        slim=False,
    )

    def greatest_fuse(self, node: FuseBlock, key: str, ctx: "PathContext") -> float:
        return node.rating_a or sizes("fuse-block").sizes[-1]

    def size(self, node: FuseBlock, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """The smallest sold that carries the protection before it.

        Source: continuous rating by the maker's sheet (sizes table).
        """
        needed, at = needed_current(part, guard_a), f"{part.pointer}/rating_a"
        pick = sizes("fuse-block").pick(needed.number)
        figure = sized("I_rated", node.rating_a, pick, "A", "rating", at, SMALLEST, {"I_need": needed}, "fuse-block")
        part.rating = ctx.put(part.key, "rating", figure)
        size_voltage(node.voltage_v, part, ctx)

    def resistance(self, node: FuseBlock, part: "PartSizing") -> Figure | None:
        return None

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        table = sizes("fuse-block")
        for amps in table.sizes:
            yield self.priced(f"{table.label}, {amps:g} A", {"rating_a": amps}, amps, table.basis.source)

    def body(self, node: FuseBlock, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        """By how many circuits it has."""
        return body_type(self.key, rating=len(ctx.network.feeds[part.key]))

    def symbol(self, node: FuseBlock, part: "PartSizing", box: Box) -> list[Primitive]:
        return [Box(box.x, box.y, box.w, box.h, "box", 1.4, 3)]

    def labels(self, node: FuseBlock, part: "PartSizing") -> Sequence[Label]:
        return [Label(part.name_in_its_tree, bold=True), *Label.of(part.rating)]
