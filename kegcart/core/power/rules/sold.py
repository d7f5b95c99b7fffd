"""Ratings that were decided, against those that are sold."""

from collections.abc import Iterator

from kegcart.core.catalogue import NOTE, judges
from kegcart.core.check import Check, Fault, is_so, note
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, set_value
from kegcart.core.power.kinds.ac_circuit import breakers
from kegcart.core.power.kinds.protection import family_of
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.reference import sizes


def judge_sold(power: PowerSizing) -> Iterator[Check]:
    """Every rating of a fuse, breaker or shunt that was decided."""
    for part in power.parts.values():
        if part.node.part == "protection" and part.rating is not None and part.rating.choice == "pinned":
            family = family_of(part)
            yield sold(part, part.rating, family.ratings_a, f"no {family.label}")
        breaker = part.extra.get("breaker")
        if breaker is not None and breaker.choice == "pinned":
            yield sold(part, breaker, breakers(power.ctx.brief).sizes, "no AC breaker")
    shunt = power.shunt
    if shunt is not None and shunt.choice == "pinned":
        yield sold(None, shunt, sizes("shunt").sizes, "no shunt")


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
