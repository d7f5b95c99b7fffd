"""Fuses and breakers: what they interrupt, how fast they can open, which rating serves."""

from bisect import bisect_left
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from math import exp, log, sqrt

from kegcart.core.reference import Family, constant, families

SMALLEST_A = 1.0
"""A family that begins here is made for thin leads too."""
NEAR = 1.3
"""A simpler family is preferred where its rating is within this factor of the smallest that serves."""

Surge = tuple[float, float]
"""A surge: current in A, length in s."""


@lru_cache(maxsize=1024)
def interrupt_rating(family: Family, voltage_v: float) -> float:
    """The greatest fault current in A the family opens at this DC voltage; 0 beyond its voltage rating."""
    return next((amps for limit_v, amps in family.interrupts if voltage_v <= limit_v), 0.0)


@lru_cache(maxsize=256)
def opened_at(voltage_v: float) -> dict[str, float]:
    """The greatest fault current in A that each family opens at a DC voltage; without those that are not rated for it."""
    return {f.key: interrupt_rating(f, voltage_v) for f in families().values() if f.v_dc >= voltage_v}


@cache
def lists_by_voltage() -> dict[float, tuple[Family, ...]]:
    """The families that are made for direct current of so many V, the simplest first, by each voltage rating there is."""
    able = sorted((f for f in families().values() if f.v_dc > 0), key=lambda f: f.price_order)
    return {volts: tuple(f for f in able if f.v_dc >= volts) for volts in sorted({f.v_dc for f in able})}


def list_for(voltage_v: float) -> str:
    """The name of the list of those families that serve at a DC voltage; where none does, of those of the highest."""
    steps = list(lists_by_voltage())
    return f"family:{steps[min(bisect_left(steps, voltage_v), len(steps) - 1)]:g}"


def fastest_melting(family: Family, multiple: float) -> float:
    """The shortest time in s in which the family may open at `multiple` of its rating; log-log between points.

    Source: time-current bands of makers, ISO 8820-3 and IEC 60269 (melting table); constant I²t beyond the last point.
    """
    points = family.multiples
    if multiple < points[0]:
        return float("inf") if multiple < min(1.1, points[0]) else family.fastest_s[0]
    if multiple >= points[-1]:
        return family.fastest_s[-1] * (points[-1] / multiple) ** 2
    i = next(k for k in range(1, len(points)) if multiple < points[k])
    share = log(multiple / points[i - 1]) / log(points[i] / points[i - 1])
    return exp(log(family.fastest_s[i - 1]) * (1 - share) + log(family.fastest_s[i]) * share)


@cache
def usual_melting(family: Family) -> tuple[tuple[float, float], ...]:
    """The middle of the melting window: (multiple of the rating, time in s), the slowest first.

    Source: geometric mean of fastest and slowest (melting table).
    """
    times = (sqrt(fast * slow) for fast, slow in zip(family.fastest_s, family.slowest_s, strict=True))
    return tuple(zip(family.multiples, times, strict=True))


@lru_cache(maxsize=1024)
def usual_multiple(family: Family, time_s: float) -> float:
    """The multiple of its rating at which a fuse or breaker usually opens after so many s; log-log between points.

    Source: `usual_melting`; constant I²t beyond its last point, its first for whatever lasts longer.
    """
    points = usual_melting(family)
    if time_s >= points[0][1]:
        return points[0][0]
    last_m, last_s = points[-1]
    if time_s <= last_s:
        return last_m * sqrt(last_s / time_s)
    i = next(k for k in range(1, len(points)) if time_s >= points[k][1])
    (m_0, t_0), (m_1, t_1) = points[i - 1], points[i]
    share = log(time_s / t_0) / log(t_1 / t_0)
    return exp(log(m_0) * (1 - share) + log(m_1) * share)


@lru_cache(maxsize=1024)
def stays_closed_from(upper: Family, lower: Family, lower_a: float, fault_a: float) -> float:
    """The least rating in A of a protection that stays closed while one behind it, of `lower_a`, opens a fault of up to `fault_a`.

    Source: 1.6 × within one family of fuses (IEC 60269; assumptions table). Otherwise the middles of both time-current curves must
    not cross, and what the lower lets through must not melt the upper (melting table).
    """
    if upper is lower and upper.kind == "fuse":
        return constant("selectivity") * lower_a
    melts = upper.multiples[-1] ** 2 * upper.fastest_s[-1]
    needed = sqrt(let_through(lower, lower_a, fault_a) / melts)
    for time_s in (t for family in (upper, lower) for _, t in usual_melting(family)):
        multiple = usual_multiple(lower, time_s)
        if multiple * lower_a <= fault_a:
            needed = max(needed, lower_a * multiple / usual_multiple(upper, time_s))
    return needed


def rides_through(family: Family, rating_a: float, surges: Iterable[Surge]) -> bool:
    """Whether no surge lasts into the family's melting time at its current."""
    return all(length_s < fastest_melting(family, current_a / rating_a) for current_a, length_s in surges)


def resistance(family: Family, rating_a: float) -> float:
    """Typical resistance in Ω of a fuse or breaker of this rating.

    Source: typical drop at the rating (assumptions table).
    """
    return constant("breaker_drop" if family.kind == "breaker" else "fuse_drop") / rating_a


def let_through(family: Family, rating_a: float, fault_a: float) -> float:
    """I²t in A²s that a fault lets through before this fuse or breaker has opened.

    Source: a breaker takes half a period at the whole fault; a fuse the fastest point of its melting window, doubled for the arc
    (assumptions and melting tables), as its sheet is not known.
    """
    if family.kind == "breaker":
        return fault_a**2 * constant("breaker_opening")
    return constant("fuse_arc") * (family.multiples[-1] * rating_a) ** 2 * family.fastest_s[-1]


def hot_share(family: Family, air_c: float) -> float:
    """Share of its rating that a fuse or breaker carries in air of so many °C.

    Source: fuses 0.2 %/K over 25 °C, thermal breakers 0.6 %/K over 40 °C (typical of makers' sheets, assumptions table).
    """
    base_c, per_k = derate_of(family)
    return max(0.0, 1 - per_k * max(0.0, air_c - base_c))


def derate_of(family: Family) -> tuple[float, float]:
    """Up to how warm an air (°C) a fuse or breaker carries its rating, and the share that it loses for each kelvin more."""
    return (40.0, constant("breaker_derate")) if family.kind == "breaker" else (25.0, constant("fuse_derate"))


@lru_cache(maxsize=256)
def hot_shares(air_c: float) -> dict[str, float]:
    """`hot_share` of every family, by its key; never quite nothing."""
    return {f.key: max(hot_share(f, air_c), 1e-9) for f in families().values()}


@dataclass(frozen=True, slots=True)
class SoldProtection:
    """A family in one rating (A)."""

    family: Family
    rating_a: float


@cache
def catalogue() -> tuple[SoldProtection, ...]:
    """Every protection sold, smallest first; at the same rating the simpler family first."""
    every = [SoldProtection(family, rating) for family in families().values() for rating in family.ratings_a]
    return tuple(sorted(every, key=lambda p: (p.rating_a, p.family.price_order)))


@lru_cache(maxsize=512)
def on_offer(
    family: str | None, rating_a: float | None, in_lead: bool = False, opening: frozenset[str] | None = None
) -> tuple[SoldProtection, ...]:
    """What may be chosen from, smallest first: all that has a DC rating, or a pinned family or rating.

    in_lead: for a thin lead: only families that are made small enough. opening: only these families, None for all.
    """

    def fits(family: Family) -> bool:
        return family.v_dc > 0 and (not in_lead or family.ratings_a[0] <= SMALLEST_A)

    return tuple(
        p
        for p in catalogue()
        if family in (None, p.family.key)
        and rating_a in (None, p.rating_a)
        and (fits(p.family) or family is not None)
        and (opening is None or p.family.key in opening)
    )


def nearest(rising: Iterable[SoldProtection], serves: Callable[[SoldProtection], bool]) -> list[SoldProtection]:
    """The smallest that serves, with all that serve and are hardly larger."""
    out: list[SoldProtection] = []
    for p in rising:
        if out and p.rating_a > NEAR * out[0].rating_a:
            break
        if serves(p):
            out.append(p)
    return out


def strongest(offered: Sequence[SoldProtection], voltage_v: float) -> Sequence[SoldProtection]:
    """Those of the family that opens the most at a DC voltage; where none is rated for it, that of the highest voltage."""
    best = max(offered, key=lambda p: (interrupt_rating(p.family, voltage_v), p.family.v_dc)).family
    return [p for p in offered if p.family is best]


def pick(
    least_a: float,
    surges: Sequence[Surge],
    voltage_v: float,
    fault_a: float,
    most_a: float = float("inf"),
    family: str | None = None,
    in_block: bool = False,
    rating_a: float | None = None,
    air_c: float = 25.0,
    in_lead: bool = False,
) -> SoldProtection:
    """The smallest protection that serves, and where none meets every rule the nearest safe one.

    least_a: 1.25 × the continuous current, to be carried in air of `air_c` °C. surges: what it must ride through.
    voltage_v, fault_a: what it must open against. most_a: what its wires and sockets carry.
    family, rating_a: pinned by the builder. in_block: sits in a fuse block; in_lead: in a thin lead.
    What gives way first is comfort (1.25 ×, surges), then the block, never the wire. Where nothing sold opens the fault, it is
    the strongest family there is.
    """
    return picked(least_a, tuple(surges), voltage_v, fault_a, most_a, family, in_block, rating_a, air_c, in_lead)


@lru_cache(maxsize=4096)  # the next answer asks for most of the last one's again
def picked(
    least_a: float,
    surges: tuple[Surge, ...],
    voltage_v: float,
    fault_a: float,
    most_a: float,
    family: str | None,
    in_block: bool,
    rating_a: float | None,
    air_c: float,
    in_lead: bool,
) -> SoldProtection:
    """See `pick`."""
    opening = frozenset(key for key, amps in opened_at(voltage_v).items() if amps >= fault_a)
    able: Sequence[SoldProtection] = on_offer(family, rating_a, in_lead, opening)
    if not able and (offered := on_offer(family, rating_a, in_lead)):
        able = strongest(offered, voltage_v)
    elif not able:  # a rating that nobody sells: in the family that would be taken for as much
        like = families()[family] if family else pick(rating_a or least_a, surges, voltage_v, fault_a, in_block=in_block).family
        able = [SoldProtection(like, rating_a or least_a)]
    shares = hot_shares(air_c)

    def carries(p: SoldProtection) -> bool:
        return p.rating_a >= least_a / shares[p.family.key] - 1e-9

    every = able
    blocks = [p for p in every if p.family.mount == "block"] if in_block else []
    able = [p for p in blocks if carries(p)] or every
    # What serves stands not far up the list, and hundreds are asked for.
    likely = able[bisect_left(able, least_a - 1e-9, key=lambda p: p.rating_a) :]

    def easy() -> Iterator[SoldProtection]:
        return (p for p in likely if p.rating_a <= most_a and carries(p))

    if serving := nearest(easy(), lambda p: rides_through(p.family, p.rating_a, surges)) or nearest(easy(), lambda p: True):
        return min(serving, key=lambda p: p.family.price_order)
    kept = ([p for p in some if p.rating_a <= most_a] for some in (able, blocks, every))
    safe = next((some for some in kept if some), None)
    return safe[-1] if safe else next((p for p in able if carries(p)), able[-1])
