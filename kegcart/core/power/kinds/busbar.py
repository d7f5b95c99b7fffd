"""Busbars: the smallest section of copper that carries the fuse before it, in a closed box."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.choice import sized
from kegcart.core.document import FieldWords, Words
from kegcart.core.drawing import Box, Primitive
from kegcart.core.figure import Figure
from kegcart.core.power.fed import Fed, Section
from kegcart.core.power.kinds.base import (
    LINE,
    SMALLEST,
    Choice,
    Copper,
    Facts,
    Label,
    PartType,
    needed_current,
)  # fmt: skip
from kegcart.core.power.kinds.symbols import bar
from kegcart.core.reference import BusbarSection, assumption, busbars, constant
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import reader

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


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
        return section.ampacity_a * hot_air(ctx.site.inside_c).number * constant("closed_box_bar")

    def size(self, node: Busbar, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """The smallest bar that carries the protection before it in a closed box.

        Source: busbars table; four fifths in a closed box (assumptions table).
        """
        needed, k_box, k_hot = needed_current(part, guard_a), assumption("closed_box_bar"), hot_air(ctx.site.inside_c)
        share = k_box.number * k_hot.number
        if node.section:
            section = busbars()[node.section]
        else:
            section = next((b for b in rising() if b.ampacity_a * share >= needed.number), rising()[-1])
        at = f"{part.pointer}/section"
        figure = sized("section", node.section, section.key, "", "section", at, SMALLEST, {"I_need": needed}, "busbar")
        part.choice = ctx.put(part.key, "section", figure)
        table = section.figure("I_tab", section.ampacity_a, "A")
        label = "rating in a closed box, in the air inside"
        rating = Figure.by("I_bar", "I_tab · k_T · k_b", "A", label, I_tab=table, k_T=k_hot, k_b=k_box)
        part.rating = ctx.put(part.key, "rating", rating)

    def resistance(self, node: Busbar, part: "PartSizing") -> Figure | None:
        return None

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        for section in rising():
            yield self.priced(section.label, {"section": section.key}, section.ampacity_a, section.basis.source)

    def body(self, node: Busbar, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        return body_type(self.key, rating=part.rating.number if part.rating else 0.0)

    def symbol(self, node: Busbar, part: "PartSizing", box: Box) -> list[Primitive]:
        return bar(box)

    def labels(self, node: Busbar, part: "PartSizing") -> Sequence[Label]:
        return [Label(part.name_in_its_tree), *Label.of(part.choice, bold=True), *Label.of(part.current, faint=True)]


def hot_air(inside: Figure) -> Figure:
    """Share of its rating that a bar carries in air of so many °C; the table is for 35 °C and +30 K.

    Source: cooling by air and radiation goes with the rise to 1/0.55 (assumptions table).
    """
    return Figure.by(
        "k_T",
        "min(1, (max(0, T_bar − T_in) / 30) ^ n_b)",
        "×",
        "share left in hot air",
        T_bar=assumption("bar_hottest"),
        T_in=inside,
        n_b=assumption("bar_exponent"),
    )


def rising() -> list[BusbarSection]:
    """The sections sold, the one that carries least first."""
    return sorted(busbars().values(), key=lambda b: b.ampacity_a)
