"""Ratings that were decided, against those that are sold."""

from collections.abc import Iterator

from kegcart.core.catalogue import NOTE, judges
from kegcart.core.check import Check, Fault, is_so, note
from kegcart.core.electrical.protection import interrupt_rating
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, set_value
from kegcart.core.power.kinds import Protection
from kegcart.core.power.kinds.ac_circuit import breakers
from kegcart.core.power.kinds.protection import family_of
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.reference import families, sizes


def judge_sold(power: PowerSizing) -> Iterator[Check]:
    """Every rating of a fuse, breaker or shunt that was decided."""
    for part in power.parts.values():
        if isinstance(part.node, Protection) and part.rating is not None and part.rating.choice == "pinned":
            family = family_of(part)
            if part.node.family is not None:
                yield sold(part, part.rating, family.ratings_a, f"no {family.label}")
            else:
                yield sold(part, part.rating, for_its_place(part), "no fuse or breaker that opens its fault")
        breaker = part.extra.get("breaker")
        if breaker is not None and breaker.choice == "pinned":
            yield sold(part, breaker, breakers(power.ctx.brief).sizes, "no AC breaker")
    shunt = power.shunt
    if shunt is not None and shunt.choice == "pinned":
        yield sold(None, shunt, sizes("shunt").sizes, "no shunt")


def for_its_place(part: PartSizing) -> tuple[float, ...]:
    """The ratings sold, A, of every family that opens the fault where a fuse stands; of its own where none does."""
    assert part.fault is not None
    volts, amps = part.source.v_max.number, part.fault.number
    able = [f for f in families().values() if interrupt_rating(f, volts) >= amps] or [family_of(part)]
    return tuple(sorted({rating for family in able for rating in family.ratings_a}))


@judges("power.not-sold", "a rating that is sold", NOTE)
def sold(part: PartSizing | None, rating: Figure, ratings: tuple[float, ...], nothing: str) -> Check:
    """A rating that was decided is one of those sold.

    Source: ratings sold (protections and sizes tables).
    """
    at, amps = rating.pointer, rating.number
    below = max((r for r in ratings if r < amps), default=None)
    above = min((r for r in ratings if r > amps), default=None)

    def fault() -> Fault:
        near = [r for r in (above, below) if r is not None]
        said = " and ".join(f"{r:g} A" for r in sorted(near))
        name = part.node.name if part is not None else "The shunt"
        return note(
            f"{name}: {nothing} is sold with {{I}}; there is {said}.",
            "What cannot be had is replaced in the shop by what lies there. Take the next one that is made, and let it be judged.",
            {"I": rating},
            tuple(Remedy(f"Take {r:g} A", [set_value(at, r)]) for r in near),
        )

    return is_so("power.not-sold", at, any(abs(r - amps) < 1e-6 for r in ratings), fault)
