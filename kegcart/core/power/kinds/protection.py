"""Fuses and breakers: the smallest of the simplest family that carries, rides through, and interrupts."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from kegcart.core.choice import sized
from kegcart.core.drawing import Box, Line, Primitive, Role
from kegcart.core.electrical import protection
from kegcart.core.figure import Figure
from kegcart.core.power.fed import FamilyKey, Fed
from kegcart.core.power.kinds.base import (
    LINE,
    UNLIMITED,
    Choice,
    Copper,
    Facts,
    FieldWords,
    Label,
    PartType,
    Words,
)  # fmt: skip
from kegcart.core.reference import Family, assumption, constant, families
from kegcart.core.units import Current

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext


class Protection(Fed):
    """A fuse or breaker in the positive line."""

    part: Literal["protection"]
    rating_a: Current | None = None
    family: FamilyKey | None = None
    polarised: bool = Field(False, description="a breaker that opens safely in one direction of current only")


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
            FieldWords("polarised", "Polarised breaker", "flag"),
            FieldWords("run/sheathed", "Cable sheathed and fixed", "flag"),
        ),
        own=("rating_a", "family", "polarised"),
        owes=("power.fuse-nuisance", "power.no-fuse-opens", "power.fuse-voltage", "power.fuse-interrupt", "power.breaker-dc"),
        height=38,
        slim=True,
    )

    def greatest_fuse(self, node: Protection, key: str, ctx: "PathContext") -> float:
        return UNLIMITED

    def size(self, node: Protection, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        size_protection(node, part, ctx)

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

    def catalogue(self, class_v: float) -> Iterator[PartType]:
        for family in families().values():
            if family.v_dc > 0:
                for amps in family.ratings_a:
                    figures = {"rating_a": amps, "family": family.key}
                    yield self.priced(f"{family.label}, {amps:g} A", figures, amps, family.basis.source)

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


def fuse_bound(key: str, ctx: "PathContext") -> float:
    """The greatest fuse in A that the pinned parts of its segment, and the largest sold of the auto ones, carry.

    The cable up to the first fuse of all is one of them.
    """
    from kegcart.core.power.kinds import kind_of

    network = ctx.network
    first = network.is_first(key) and not network.in_block(key)
    bounds = [ctx.practice.greatest_fuse(network.nodes[key].run) if first else UNLIMITED]
    for child in network.segment(key):
        node = network.nodes[child]
        if not network.in_block(child):
            bounds.append(ctx.practice.greatest_fuse(node.run))
        bounds.append(kind_of(node).greatest_fuse(node, child, ctx))
    return min(bounds)


def selective_rating(key: str, ctx: "PathContext") -> float:
    """The rating in A at which this protection stays closed when one of several behind it opens; 0 where that is no matter.

    The ratings behind are not chosen yet: what would serve there without regard to the fault stands for them.

    Source: 1.6 × within one family, as gG fuses are made (IEC 60269; assumptions table).
    """
    network = ctx.network
    behind = network.nearest_protections(key)
    if not behind or (len(behind) < 2 and not network.leaves_before(key)):
        return 0.0
    guesses = []
    for child in behind:
        node = network.nodes[child]
        assert isinstance(node, Protection)
        least = ctx.parts[child].design.number * constant("fuse_margin")
        surges, source = ctx.parts[child].flow.surges, ctx.source(child)
        volts, air_c, in_block = source.v_max.number, ctx.site.inside_c.number, network.in_block(child)
        guess = protection.pick(least, surges, volts, 0.0, UNLIMITED, node.family, in_block, air_c=air_c)
        guesses.append(node.rating_a or guess.rating_a)
    return constant("selectivity") * max(guesses, default=0.0)


def hot_rating(rating: Figure, family: Family, air: Figure) -> Figure:
    """What a fuse or breaker carries in the air inside the box, A. Source: see `protection.hot_share`."""
    by = "0.6 %/K over 40 °C" if family.kind == "breaker" else "0.2 %/K over 25 °C"
    share = Figure.of("k_T", protection.hot_share(family, air.number), "×", "share left in hot air", how=by, inputs={"T_in": air})
    return Figure.by("I_hot", "I_fuse · k_T", "A", "carries in the air inside", I_fuse=rating, k_T=share)


def size_protection(node: Protection, part: "PartSizing", ctx: "PathContext") -> None:
    """Rating and family of a fuse or breaker, against the fault that stands at `part.fault`.

    Source: 1.25 × the design current, no more than its wires carry; interrupting rating by voltage (makers' data sheets; ISO 8820, IEC 60269).
    """
    assert part.fault is not None
    volts, fault = part.source.v_max, part.fault
    least = Figure.by("I_least", "k · I_d", "A", "least rating", k=assumption("fuse_margin"), I_d=part.design)
    most_a = fuse_bound(part.key, ctx)
    wanted = max(least.number, min(selective_rating(part.key, ctx), most_a))
    in_block = ctx.network.in_block(part.key)
    air, pinned = ctx.site.inside_c, node.rating_a
    chosen = protection.pick(
        wanted, part.flow.surges, volts.number, fault.number, most_a, node.family, in_block, pinned, air.number
    )
    family = families()[node.family] if node.family else chosen.family
    inputs = {"I_least": least, "I_surge": part.surge, "I_fault": fault, "V_max": volts, "T_in": air}
    if most_a != UNLIMITED:
        inputs["I_most"] = Figure.of("I_most", most_a, "A", "most that the parts behind it carry")
    how = (
        "next standard size up from 1.25 × the design current, in the air inside, that rides through the surges and stays "
        "closed when one behind it opens"
    )
    at, of = part.pointer, f"rating:{family.key}"
    part.rating = sized("I_fuse", node.rating_a, chosen.rating_a, "A", "rating", f"{at}/rating_a", how, inputs, of)
    how = "simplest family sold in that rating that interrupts the fault at this voltage"
    inputs = {"I_fault": fault, "V_max": volts}
    said = node.family and family.label
    part.family = sized("family", said, family.label, "", "family", f"{at}/family", how, inputs, "family", family.key)
    interrupts = protection.interrupt_rating(family, volts.number)
    rows = {
        "least": least,
        "hot": hot_rating(part.rating, family, air),
        "rating": part.rating,
        "family": part.family,
        "interrupts": family.figure("I_int", interrupts, "A", f"{family.label}: interrupts at the pack's greatest voltage"),
        "voltage": family.figure("V_dc", family.v_dc, "V", f"{family.label}: voltage rating"),
    }
    for name, figure in rows.items():
        ctx.put(part.key, name, figure)
    part.extra = rows
