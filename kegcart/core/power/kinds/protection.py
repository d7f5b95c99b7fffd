"""Fuses and breakers: the smallest of the simplest family that carries, rides through, and interrupts."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.document import FieldWords, Words
from kegcart.core.drawing import Box, Line, Primitive, Role
from kegcart.core.electrical import protection
from kegcart.core.figure import Figure
from kegcart.core.power.fed import FamilyKey, Fed, Reach
from kegcart.core.power.kinds.base import (
    LINE,
    UNLIMITED,
    Choice,
    Copper,
    Facts,
    Label,
    PartType,
)  # fmt: skip
from kegcart.core.reference import Family, families
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Current

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source


BREAKERS = tuple(family.key for family in families().values() if family.kind == "breaker")
AT_BAR_M = 0.15
"""Where a branch fuse stands that is set at its bar: a short tap."""


class Protection(Fed):
    """A fuse or breaker in the positive line."""

    part: Literal["protection"]
    rating_a: Current | None = None
    family: FamilyKey | None = None
    polarised: bool = Field(False, description="a breaker that opens safely in one direction of current only")
    reach: Reach | None = Field(
        None, description="how one gets at a breaker that serves as switch; null: it does not serve as one"
    )


class ProtectionKind(Copper[Protection]):
    """The duties of a fuse or breaker."""

    key = "protection"
    model = Protection
    facts = Facts(
        words=Words("fuse or breaker", "a fuse or breaker", "a fuse", "Fuse"),
        role="protects",
        fed_by=LINE | {"converter"},
        regulated=True,
        limits=True,
        bolted=True,
        choices=(Choice("rating_a", "rating", "Rating"), Choice("family", "family", "Family")),
        fields=(
            FieldWords("reach", "Serves as switch", "choice", empty="it does not", of_choice="family", of_keys=BREAKERS),
            FieldWords("polarised", "Polarised breaker", "flag", of_choice="family", of_keys=BREAKERS),
            FieldWords("run/sheathed", "Cable sheathed and fixed", "choice", "", "a short tap is, all else is not"),
        ),
        own=("rating_a", "family", "polarised"),
        owes=("power.fuse-nuisance", "power.no-fuse-opens", "power.fuse-voltage", "power.fuse-interrupt", "power.breaker-dc"),
        height=38,
        slim=True,
    )

    def greatest_fuse(self, node: Protection, key: str, ctx: "PathContext") -> float:
        return UNLIMITED

    def size(self, node: Protection, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        from kegcart.core.power.path.fuses import size_protection

        size_protection(node, part, ctx, guard_a)

    def resistance(self, node: Protection, part: "PartSizing") -> Figure | None:
        """Its drop over its rating.

        Source: typical drop over a fuse or breaker at its rating (assumptions table).
        """
        if part.rating is None:
            return None
        ohm = protection.resistance(family_of(part), part.rating.number)
        how = "its typical drop over its rating"
        return Figure.of("R_f", ohm, "Ω", "fuse or breaker", how=how, inputs={"I_fuse": part.rating})

    def has_studs(self, node: Protection, part: "PartSizing") -> bool:
        family = family_of(part)
        return family.mount == "inline" and family.key != "large-blade"

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        for family in families().values():
            if family.v_dc >= source.v_max.number:
                for amps in family.ratings_a:
                    figures = {"rating_a": amps, "family": family.key}
                    yield self.priced(f"{family.label}, {amps:g} A", figures, amps, family.basis.source)

    def body(self, node: Protection, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        """Its holder, by family; one that is fed from a block sits in that."""
        feeder = ctx.network.nodes.get(node.feed)
        if feeder is not None and feeder.part == "fuse_block":
            return None
        return body_type(self.key, part.family.key if part.family else "")

    def symbol(self, node: Protection, part: "PartSizing", box: Box) -> list[Primitive]:
        """A fuse is a rectangle with the line through it; a breaker a contact with a cross at its fixed end (IEC 60617)."""
        middle, top, low = box.x + box.w / 2, box.y, box.y + box.h
        if family_of(part).kind == "breaker":
            return breaker_symbol(middle, top, low)
        return [Box(middle - 6, top + 4, 12, box.h - 8), Line(((middle, top - 1), (middle, low + 1)), "positive", 2)]

    def labels(self, node: Protection, part: "PartSizing") -> Sequence[Label]:
        return [*Label.of(part.rating, bold=True), *Label.of(part.family, faint=True)]


def breaker_symbol(middle: float, top: float, low: float, pole: Role = "positive") -> list[Primitive]:
    """A contact that opens by itself: the cross stands at its fixed end. pole: what its line carries."""
    contact, hinge = top + 8, low - 9
    cross = 3.4
    return [
        Box(middle - 6, top, 12, low - top, "ground"),
        Line(((middle, top - 1), (middle, contact)), pole, 2),
        Line(((middle - cross, contact - cross), (middle + cross, contact + cross)), "ink", 1.6),
        Line(((middle - cross, contact + cross), (middle + cross, contact - cross)), "ink", 1.6),
        Line(((middle, hinge), (middle - 9, contact + 3)), "ink", 2),
        Line(((middle, hinge), (middle, low + 1)), pole, 2),
    ]


def family_of(part: "PartSizing") -> Family:
    """The family that was chosen for a fuse or breaker, or pinned."""
    assert part.family is not None
    return families()[part.family.key]
