"""Which fuse or breaker stands where: rating and family, by its work, its place, and those before and behind it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache

from kegcart.core.choice import sized
from kegcart.core.electrical import protection
from kegcart.core.electrical.protection import SoldProtection
from kegcart.core.figure import Figure
from kegcart.core.power.kinds import Protection, kind_of
from kegcart.core.power.kinds.base import UNLIMITED
from kegcart.core.power.path.parts import PartSizing, PathContext
from kegcart.core.power.path.runs import wire_behind
from kegcart.core.reference import Family, assumption, constant, families
from kegcart.core.units import write_quantity


def fuse_bound(key: str, ctx: PathContext) -> float:
    """The greatest fuse in A that the pinned parts of its segment, and the largest sold of the auto ones, carry.

    The cable to it that it guards is one of them.
    """
    network = ctx.network
    own = network.guards_its_own(key) and not network.in_block(key)
    bounds = [ctx.practice.greatest_fuse(network.nodes[key].run) if own else UNLIMITED]
    for child in network.segment(key):
        node = network.nodes[child]
        if not network.in_block(child):
            bounds.append(ctx.practice.greatest_fuse(node.run))
        bounds.append(kind_of(node).greatest_fuse(node, child, ctx))
    return min(bounds)


def hot_rating(rating: Figure, family: Family, air: Figure) -> Figure:
    """What a fuse or breaker carries in the air inside the box, A. Source: see `protection.hot_share`."""
    base_c, per_k = protection.derate_of(family)
    by = f"{write_quantity(per_k * 100, '%/K')} over {write_quantity(base_c, '°C')}"
    share = Figure.of("k_T", protection.hot_share(family, air.number), "×", "share left in hot air", how=by, inputs={"T_in": air})
    return Figure.by("I_hot", "I_fuse · k_T", "A", "carries in the air inside", I_fuse=rating, k_T=share)


@dataclass(frozen=True, slots=True)
class Place:
    """Where a fuse or breaker is to stand: greatest voltage (V), fault (A), air (°C), whether in a block, what it may be at most (A)."""

    volts: float
    fault_a: float
    air_c: float
    in_block: bool
    most_a: float

    def pick(
        self, least_a: float, surges: Sequence[protection.Surge], family: str | None, rating_a: float | None
    ) -> SoldProtection:
        """What serves there: see `protection.pick`."""
        return protection.pick(
            least_a, surges, self.volts, self.fault_a, self.most_a, family, self.in_block, rating_a, self.air_c
        )


def family_of_block(block: str, place: Place, guard_a: float, ctx: PathContext) -> str | None:
    """The one family of the fuses in a block: as pinned for one of them where that opens the fault, else the simplest in which every
    one of them is made, no larger than the fuse before the block (`guard_a`) where that can be; None where none is.

    Source: a block is made for one form of fuse (makers' sheets).
    """
    asked = (block, place.volts, place.fault_a, guard_a)
    if asked not in ctx.block_families:
        ctx.block_families[asked] = find_family(block, place, guard_a, ctx)
    return ctx.block_families[asked]


def find_family(block: str, place: Place, guard_a: float, ctx: PathContext) -> str | None:
    """See `family_of_block`."""
    inside = [(k, node) for k in ctx.network.children[block] if isinstance(node := ctx.network.nodes[k], Protection)]
    opens = protection.opened_at(place.volts)
    opening = [f for f in made_for_blocks() if opens.get(f.key, 0.0) >= place.fault_a]
    able = {f.key for f in opening}
    if pinned := next((node.family for _, node in inside if node.family in able), None):
        return pinned
    shares = protection.hot_shares(place.air_c)

    def made(family: Family, key: str, node: Protection, most_a: float, strict: bool) -> bool:
        part = ctx.parts[key]
        least_a = part.design.number * constant("fuse_margin") / shares[family.key]
        if node.rating_a:
            rides = protection.rides_through(family, node.rating_a, part.flow.surges)
            return node.rating_a in family.ratings_a and (not strict or rides)
        able = (rating for rating in family.ratings_a if least_a - 1e-9 <= rating <= most_a)
        return any(protection.rides_through(family, rating, part.flow.surges) for rating in able)

    for strict, most_a in ((True, guard_a or UNLIMITED), (True, UNLIMITED), (False, UNLIMITED)):
        for family in opening:
            if all(made(family, key, node, most_a, strict) for key, node in inside):
                return family.key
    return None


@cache
def made_for_blocks() -> tuple[Family, ...]:
    """The families that sit in a block, the simplest first."""
    return tuple(sorted((f for f in families().values() if f.mount == "block" and f.v_dc > 0), key=lambda f: f.price_order))


MOST_RAISED = 2.0
"""How far a fuse is raised above what it carries, so that it stays closed when one behind it opens."""


def closed_with(chosen: SoldProtection, part: PartSizing, place: Place, guesses: "Guesses", ctx: PathContext) -> SoldProtection:
    """The rating of the same family at which a protection stays closed when one of several behind it opens; as chosen where that would
    ask for more copper, or for a fuse far above its work.

    The fault at one behind it may be as much as here, or so little that the simplest family does. A darker station in a rare fault
    weighs less than a main path twice as thick.
    """
    behind = ctx.network.nearest_protections(part.key)
    if not behind or (len(behind) < 2 and not ctx.network.leaves_before(part.key)):
        return chosen
    raised, most_a = chosen, min(place.most_a, MOST_RAISED * chosen.rating_a)
    for fault_a in (place.fault_a, 0.0):
        others = [guesses.at(key, fault_a) for key in behind]
        needed = max(protection.stays_closed_from(raised.family, o.family, o.rating_a, place.fault_a) for o in others)
        if needed <= raised.rating_a + 1e-9:
            continue
        larger = [SoldProtection(raised.family, r) for r in raised.family.ratings_a if needed - 1e-9 <= r <= most_a]
        if not larger or not same_copper(part, chosen, larger[0], ctx):
            break
        raised = larger[0]
    return raised


def same_copper(part: PartSizing, chosen: SoldProtection, raised: SoldProtection, ctx: PathContext) -> bool:
    """Whether no cable that a protection guards grows with a larger rating of it."""
    network = ctx.network
    own = [part.key] if network.guards_its_own(part.key) else []
    guarded = [k for k in (*own, *network.segment(part.key)) if not network.in_block(k) and network.nodes[k].run.gauge is None]
    return all(wire_behind(ctx.parts[k], chosen, ctx) is wire_behind(ctx.parts[k], raised, ctx) for k in guarded)


@dataclass(frozen=True, slots=True)
class Guesses:
    """What will stand behind a protection, by the fault there, which is not known yet when it is sized."""

    place: Place
    ctx: PathContext

    def at(self, key: str, fault_a: float) -> SoldProtection:
        """The protection at a part, for a fault of so many A."""
        known, asked = self.ctx.guesses, (key, self.place.volts, fault_a)
        if asked not in known:
            known[asked] = self.picked(key, fault_a)
        return known[asked]

    def picked(self, key: str, fault_a: float) -> SoldProtection:
        """See `at`."""
        ctx, node, part = self.ctx, self.ctx.network.nodes[key], self.ctx.parts[key]
        assert isinstance(node, Protection)
        in_block = ctx.network.in_block(key)
        there = Place(self.place.volts, fault_a, self.place.air_c, in_block, UNLIMITED)
        one = node.family or (family_of_block(node.feed, there, 0.0, ctx) if in_block else None)
        least_a = max(part.design.number * constant("fuse_margin"), self.largest_behind(key, fault_a))
        rating = there.pick(least_a, part.flow.surges, one, None)
        return SoldProtection(rating.family, node.rating_a) if node.rating_a else rating

    def largest_behind(self, key: str, fault_a: float) -> float:
        """What stands behind a protection is at most as large as it is, A: else this one opens first, whatever happens there."""
        return max((self.at(child, fault_a).rating_a for child in self.ctx.network.nearest_protections(key)), default=0.0)


def choose(node: Protection, part: PartSizing, place: Place, guard_a: float, ctx: PathContext) -> SoldProtection:
    """What serves at a part: no smaller than what stands behind it, no larger than what stands before it (`guard_a`) where that
    serves, and raised where that costs nothing, see `closed_with`. A pinned rating keeps the family that would be taken without it,
    unless that does not serve in this rating and another does.
    """
    guesses, least_a, surges = Guesses(place, ctx), part.design.number * constant("fuse_margin"), part.flow.surges
    family = node.family or (family_of_block(node.feed, place, guard_a, ctx) if place.in_block else None)
    over_a = max(least_a, min(guesses.largest_behind(part.key, place.fault_a), place.most_a))
    chosen = place.pick(over_a, surges, family, None)
    under = replace(place, most_a=min(place.most_a, guard_a or UNLIMITED))
    if chosen.rating_a > under.most_a:
        smaller = ((amps, under.pick(amps, surges, family, None)) for amps in (over_a, least_a))
        chosen = next((p for amps, p in smaller if serves(p, amps, surges, place)), chosen)
    if node.rating_a:
        able = (family,) if family else (kept_family(node.rating_a, chosen.family), None)
        pinned = [place.pick(over_a, surges, one, node.rating_a) for one in able]
        return next((p for p in pinned if serves(p, least_a, surges, place)), pinned[0])
    return closed_with(chosen, part, under, guesses, ctx)


def kept_family(rating_a: float, usual: Family) -> str | None:
    """The family that would serve if the rating were not pinned, where it is made about that small and that large; else None."""
    return usual.key if usual.ratings_a[0] <= rating_a <= usual.ratings_a[-1] else None


def size_protection(node: Protection, part: PartSizing, ctx: PathContext, guard_a: float) -> None:
    """Rating and family of a fuse or breaker, against the fault that stands at `part.fault`, see `choose`.

    Source: 1.25 × the design current, no more than its wires carry; interrupting rating by voltage (makers' data sheets; ISO 8820, IEC 60269).
    """
    assert part.fault is not None
    volts, fault, air = part.source.v_max, part.fault, ctx.site.inside_c
    least = Figure.by("I_least", "k · I_d", "A", "least rating", k=assumption("fuse_margin"), I_d=part.design)
    in_block, pinned = ctx.network.in_block(part.key), node.rating_a
    place = Place(volts.number, fault.number, air.number, in_block, fuse_bound(part.key, ctx))
    chosen = choose(node, part, place, guard_a, ctx)
    family = families()[node.family] if node.family else chosen.family
    inputs = {"I_least": least, "I_surge": part.surge, "I_fault": fault, "V_max": volts, "T_in": air}
    if place.most_a != UNLIMITED:
        inputs["I_most"] = Figure.of("I_most", place.most_a, "A", "most that the parts behind it carry")
    how = (
        "next standard size up from 1.25 × the design current, in the air inside, that rides through the surges; one that stays "
        "closed when one behind it opens, where that takes no thicker cable"
    )
    at, of = part.pointer, f"rating:{family.key}"
    part.rating = sized("I_fuse", pinned, chosen.rating_a, "A", "rating", f"{at}/rating_a", how, inputs, of)
    how = "simplest family that carries its work and interrupts the fault at this voltage; a pinned rating keeps it" + (
        ", one for the whole block" if in_block else ""
    )
    inputs = {"I_fault": fault, "V_max": volts}
    said = node.family and family.label
    offered = protection.list_for(volts.number)
    part.family = sized("family", said, family.label, "", "family", f"{at}/family", how, inputs, offered, family.key)
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


def serves(sold: SoldProtection, least_a: float, surges: Sequence[protection.Surge], place: Place) -> bool:
    """Whether a protection carries what is asked of it in the air there, rides through the starts and opens the fault."""
    return (
        sold.rating_a * protection.hot_share(sold.family, place.air_c) >= least_a - 1e-9
        and protection.rides_through(sold.family, sold.rating_a, surges)
        and protection.interrupt_rating(sold.family, place.volts) >= place.fault_a
    )
