"""Busbars: the smallest section of copper that carries the fuse before it, in a closed box."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.choice import sized
from kegcart.core.drawing import Box, Primitive
from kegcart.core.figure import Figure
from kegcart.core.power.fed import Fed, Section
from kegcart.core.power.kinds.base import (
    LINE,
    SMALLEST,
    Choice,
    Copper,
    Facts,
    FieldWords,
    Label,
    PartType,
    Words,
    needed_current,
)  # fmt: skip
from kegcart.core.power.kinds.symbols import bar
from kegcart.core.reference import BusbarSection, assumption, busbars, constant
from kegcart.core.units import reader

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext


class Busbar(Fed):
    """A positive busbar; its twin carries the negatives."""

    part: Literal["busbar"]
    section: Section | None = None
    studs: Annotated[int, Field(ge=1, le=24), BeforeValidator(reader(""))] | None = Field(
        None, description="studs it has; null: one for each lug"
    )


class BusbarKind(Copper[Busbar]):
    """The duties of a busbar."""

    key = "busbar"
    model = Busbar
    facts = Facts(
        words=Words("busbar", "a busbar", "a busbar", "Busbar"),
        role="spreads",
        fed_by=LINE - {"busbar"},
        regulated=False,
        limits=False,
        bolted=True,
        choices=(Choice("section", "section", "Section", carries=True),),
        fields=(FieldWords("studs", "Studs", "quantity", "", "one for each lug"),),
        own=("section", "studs"),
        owes=("power.busbar",),
        height=12,
        slim=False,
    )

    def greatest_fuse(self, node: Busbar, key: str, ctx: "PathContext") -> float:
        """What the bar carries in a closed box.

        Source: busbars table; four fifths in a closed box (assumptions table).
        """
        section = busbars()[node.section] if node.section else rising()[-1]
        return section.ampacity_a * constant("closed_box_bar")

    def size(self, node: Busbar, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """The smallest bar that carries the protection before it in a closed box.

        Source: busbars table; four fifths in a closed box (assumptions table).
        """
        needed, k_box = needed_current(part, guard_a), assumption("closed_box_bar")
        if node.section:
            section = busbars()[node.section]
        else:
            section = next((b for b in rising() if b.ampacity_a * k_box.number >= needed.number), rising()[-1])
        at = f"{part.pointer}/section"
        figure = sized("section", node.section, section.key, "", "section", at, SMALLEST, {"I_need": needed}, "busbar")
        part.choice = ctx.put(part.key, "section", figure)
        table = section.figure("I_tab", section.ampacity_a, "A")
        part.rating = ctx.put(
            part.key, "rating", Figure.by("I_bar", "I_tab · k_b", "A", "rating in a closed box", I_tab=table, k_b=k_box)
        )

    def resistance(self, node: Busbar, part: "PartSizing") -> Figure | None:
        return None

    def catalogue(self, class_v: float) -> Iterator[PartType]:
        for section in rising():
            yield self.priced(section.label, {"section": section.key}, section.ampacity_a, section.basis.source)

    def symbol(self, node: Busbar, part: "PartSizing", box: Box) -> list[Primitive]:
        return bar(box)

    def labels(self, node: Busbar, part: "PartSizing") -> Sequence[Label]:
        return [Label(node.name), *Label.of(part.choice, bold=True), *Label.of(part.current, faint=True)]


def rising() -> list[BusbarSection]:
    """The sections sold, the one that carries least first."""
    return sorted(busbars().values(), key=lambda b: b.ampacity_a)
