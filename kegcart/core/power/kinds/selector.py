"""Source selectors: a branch fed from one source or another."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.document import FieldWords, Words
from kegcart.core.drawing import Box, Line, Primitive
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure
from kegcart.core.power.fed import Fed
from kegcart.core.power.kinds.base import LINE, Choice, Copper, Facts, Label, PartType, size_voltage
from kegcart.core.power.kinds.switch import size_contact
from kegcart.core.power.kinds.symbols import contacts, ground
from kegcart.core.reference import assumption, sizes
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Current, Id, Voltage

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


class Selector(Fed):
    """A switch that feeds its branch from one source or another; `feed` is where it stands, `other` the other way."""

    part: Literal["selector"]
    other: Id
    other_run: Run = Field(default_factory=Run, description="the cable to it from the other way")
    rating_a: Current | None = None
    voltage_v: Voltage | None = Field(None, description="greatest DC voltage of its sheet; null: chosen to serve")
    interlocked: bool = Field(True, description="breaks one before it makes the other")


class SelectorKind(Copper[Selector]):
    """The duties of a selector."""

    key = "selector"
    model = Selector
    facts = Facts(
        words=Words("source selector", "a source selector", "a source selector", "Source selector"),
        role="passes",
        fed_by=LINE,
        regulated=False,
        limits=False,
        bolted=True,
        choices=(Choice("rating_a", "rating", "Rating", carries=True), Choice("voltage_v", "voltage", "Voltage rating")),
        fields=(
            FieldWords("other", "The other way it is fed from", "feeder"),
            FieldWords("other_run/length_m", "Cable from there", "quantity", "m"),
            FieldWords("interlocked", "Breaks one before it makes the other", "flag"),
        ),
        own=("rating_a", "voltage_v", "interlocked"),
        owes=("power.switch-rating", "power.two-sources", "power.other-feed", "power.device-voltage"),
        height=38,
        slim=True,
    )

    def greatest_fuse(self, node: Selector, key: str, ctx: "PathContext") -> float:
        return node.rating_a or sizes("switch").sizes[-1]

    def size(self, node: Selector, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """The smallest sold that carries the protection before it: see `size_contact`."""
        size_contact(part, ctx, guard_a, node.rating_a)
        size_voltage(node.voltage_v, part, ctx)

    def resistance(self, node: Selector, part: "PartSizing") -> Figure | None:
        """The resistance of its contact.

        Source: assumptions table.
        """
        return assumption("switch_resistance")

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        yield from ()

    def body(self, node: Selector, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        return body_type("switch", rating=part.rating.number if part.rating else 0.0)

    def symbol(self, node: Selector, part: "PartSizing", box: Box) -> list[Primitive]:
        """A change-over contact: one blade, two fixed contacts."""
        x, y, w, h = box.x, box.y, box.w, box.h
        if w > h:
            middle, end = y + h / 2, x + w - 4
            blade = ((x + 3, middle), (end, middle - 7))
            return [
                Box(x, y, w, h, "ground"),
                Line(blade, "ink", 2),
                Line(((end, middle - 7), (x + w, middle - 7), (x + w, middle)), "ink", 1.4),
                *contacts((x + 3, middle), (end, middle - 7), (end, middle + 7)),
            ]
        middle = x + w / 2
        blade = ((middle, y + h - 3), (middle - 7, y + 5))
        return [
            ground(box),
            Line(((middle - 7, y + 4), (middle - 7, y - 1), (middle, y - 1)), "ink", 1.4),
            Line(blade, "ink", 2),
            *contacts((middle, y + h - 3), (middle - 7, y + 4), (middle + 7, y + 4)),
        ]

    def labels(self, node: Selector, part: "PartSizing") -> Sequence[Label]:
        return [*Label.of(part.rating, bold=True), Label(part.name_in_its_tree, faint=True)]
