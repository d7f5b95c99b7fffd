"""What is judged of the assembly: that it can be built in some order, what its list costs, and what of it has no price."""

from collections.abc import Iterator

from kegcart.core.assembly.sizing import AssemblySizing
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.brief.document import Brief
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import Check, Fault, at_most, failed, held, mend, not_yet, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, set_value
from kegcart.core.power.path.parts import PowerSizing


def judge_assembly(sizing: AssemblySizing, brief: Brief, power: PowerSizing, box: BoxSizing | None) -> Iterator[Check]:
    """Every check of the assembly; until there is a power path, that nothing of it can be judged."""
    if not power.parts:
        yield not_yet("assembly.cycle", "/power", "a power path to be built")
        return
    yield from can_be_built(sizing, box)
    yield everything_priced(sizing)
    if brief.budget is not None:
        yield within_budget(sizing, brief.budget)


@judges("assembly.cycle", "an order in which it can be built", STOP)
def can_be_built(sizing: AssemblySizing, box: BoxSizing | None) -> Iterator[Check]:
    """There is an order in which no act waits for one that waits for it.

    Source: topological sort of the acts (Kahn); geometry of the layout.
    """
    if box is None:
        yield not_yet("assembly.cycle", "/box", "a box in which its parts stand")
        return
    if box.layout.unplaced:
        names = ", ".join(thing.name for thing in box.layout.unplaced[:3])
        yield not_yet("assembly.cycle", "/box", f"a place for {names}" + (" and others" if len(box.layout.unplaced) > 3 else ""))
    if not sizing.plan.circles and not box.layout.unplaced:
        yield held("assembly.cycle", "/assembly")
    if sizing.plan.circles:
        yield failed("assembly.cycle", "/assembly", waiting_in_a_circle(sizing, box))


def waiting_in_a_circle(sizing: AssemblySizing, box: BoxSizing) -> Fault:
    """What waits for what, in words."""
    acts, (circle, *more) = sizing.plan.acts, sizing.plan.circles
    pairs = zip(circle, [*circle[1:], circle[0]], strict=True)
    said = "; ".join(f"“{acts[key].title}” waits for “{acts[after].title}”" for key, after in pairs)
    others = f"; and {len(more)} more such circles" if more else ""
    remedies = (Remedy("The pack need not go in last", [set_value("/box/pack_last", False)]),) if box.layout.box.pack_last else ()
    why = "One of them must stand elsewhere, or be fitted from another side."
    return stop(f"It cannot be built in any order: {said}{others}.", why, {}, remedies)


@judges("assembly.price-missing", "what has no price", NOTE)
def everything_priced(sizing: AssemblySizing) -> Check:
    """Each line of the shopping list has a price, or the total says how many have none.

    Source: only what has a price is in the sum.
    """
    missing, total = sizing.shopping.without_price, sizing.shopping.total
    none = Figure.of("n_0", 0, "", "lines without a price that a whole total has")
    return at_most(
        "assembly.price-missing",
        "/assembly/prices",
        missing,
        none,
        lambda: note(
            "The total of {c} leaves out {n} lines that have no price.",
            "Type in what they cost: small parts add up to a tenth of a build.",
            {"c": total, "n": missing},
        ),
    )


@judges("assembly.over-budget", "the budget", MEND)
def within_budget(sizing: AssemblySizing, budget: float) -> Check:
    """What is still to be bought costs no more than the budget.

    Source: the budget of the brief.
    """
    total = sizing.shopping.total
    limit = Figure.decided("c_max", budget, "money", "budget", "/brief/budget")
    return at_most(
        "assembly.over-budget",
        "/assembly",
        total,
        limit,
        lambda: mend(
            "What is to be bought comes to {c}, more than the budget of {c_max}.",
            "Say what is there already, or what things really cost; a smaller pack or inverter saves the most.",
            {"c": total, "c_max": limit},
        ),
    )
