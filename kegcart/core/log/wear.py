"""How a pack wears: what its chemistry would have left of it after these years and cycles, what was measured, and when four fifths are left."""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import accumulate

from kegcart.core.assess import Assessment
from kegcart.core.figure import Figure
from kegcart.core.log.life import Life, Lived, of_kind
from kegcart.core.reference import assumption, cold_basis, cold_capacity, cold_resistance, constant
from kegcart.core.units import calendar_day, write_quantity

DAYS_A_YEAR = 365.25
NEW_DAYS = 180
"""A capacity test so soon after the beginning says what the pack held when it was new."""
TREND_DAYS = 180
"""Tests that lie closer together say nothing of a trend."""
RATE_DAYS = 60
"""Use is taken to go on as it was from so many days on."""
FORESEEN_YEARS = 25
A_YEAR = 12
"""Points of the course in a year."""


@dataclass(frozen=True, slots=True)
class Tested:
    """A test of a pack: its capacity at 25 °C in Ah, or its resistance at 25 °C in Ω, and that over what it was new."""

    item: str
    on: date
    figure: Figure
    share: Figure


@dataclass(frozen=True, slots=True)
class Wear:
    """How a pack has worn since it is in service.

    new: its capacity when new, Ah, measured or by the design. cycles: whole ones of its planned depth that went through it. left: share of the capacity
    that its chemistry would have left today. course: that share over the years, from the first day until four fifths or as far as is looked.
    capacities, resistances: what was measured, the oldest first. spent_on: when four fifths are left as it goes on; by_trend: as the tests have it.
    doubt: how far two tests of one capacity may lie apart.
    """

    since: date
    new: Figure
    calendar: Figure
    cycling: Figure
    left: Figure
    cycles: Figure
    course: Sequence[tuple[date, float]]
    capacities: Sequence[Tested]
    resistances: Sequence[Tested]
    spent_on: date | None
    by_trend: date | None
    doubt: Figure


def years(since: date, on: date) -> float:
    """From one day to another; none where that is before it, as the builder's day may be ahead of ours."""
    return max(0, (on - since).days) / DAYS_A_YEAR


def wear_of(a: Assessment, life: Life, since: date, today: date) -> Wear:
    """How the pack of a build has worn from a day until today.

    Source: loss by age 2 % a year at 25 °C, doubled by each 10 K; loss by cycles 0.2 · Σ(d / 0.8)^1.3 / N_80; their sum (typical).
    """
    calendar, uses = by_age(a), of_kind(life, "use")
    worn = cycle_losses(a, uses)
    age = Figure.of("t", years(since, today), "a", "years in service", how=f"since {calendar_day(since)}")
    cycling = Figure.of(
        "Σ",
        sum(worn),
        "share",
        "lost by cycles",
        how=f"0.2 · Σ(d / 0.8)^1.3 / N_80 over {len(uses)} entries of use; d: energy taken over the pack's nominal energy",
        inputs={key: assumption(f"cycle_{name}") for key, name in (("a_cyc", "wear"), ("d_N", "depth"), ("p", "exponent"))}
        | {"N_80": a.figures["pack/cycles"], "E_nom": a.figures["pack/nominal"]},
    )
    left = Figure.by(
        "k_exp",
        "max(0, 1 − a_T · t − Σ)",
        "share",
        "what its chemistry would have left",
        {"a_T": calendar, "t": age, "Σ": cycling},
    )
    new, capacities = tested_capacities(a, life, since)
    rate = calendar.number + (sum(worn) / age.number if (today - since).days >= RATE_DAYS else 0.0)
    course = course_of(since, today, calendar.number, list(zip((u.on for u in uses), worn, strict=True)), rate)
    end = constant("capacity_end")
    return Wear(
        since,
        new,
        calendar,
        cycling,
        left,
        full_cycles(a, uses),
        course,
        capacities,
        tested_resistances(a, life, since),
        reached_on(today, left.number, rate, end),
        trend(since, capacities, end),
        Figure.by(
            "δ",
            "2 · √(2 · (σ_m^2 + σ_T^2))",
            "share",
            "how far two tests of one capacity may lie apart",
            {"σ_m": assumption("meter_doubt"), "σ_T": assumption("cold_doubt")},
        ),
    )


def by_age(a: Assessment) -> Figure:
    """Share of the capacity lost in a year by age alone, at the mean temperature of the place."""
    mean = Figure.by("T_m", "(T_min + T_max) / 2", "°C", "mean at the site", T_min=a.site.cold_c, T_max=a.site.hot_c)
    return Figure.by(
        "a_T",
        "a_cal · 2^((T_m − 25) / ΔT_2)",
        "share",
        "lost in a year by age",
        {"a_cal": assumption("calendar_wear"), "T_m": mean, "ΔT_2": assumption("calendar_doubling")},
    )


def cycle_losses(a: Assessment, uses: Sequence[Lived]) -> list[float]:
    """What each use took of the capacity, as a share; one of more than the pack holds counts as so many full cycles and the rest."""
    whole, to_end = a.figures["pack/nominal"].number, a.figures["pack/cycles"].number
    most, depth, power = constant("cycle_wear"), constant("cycle_depth"), constant("cycle_exponent")

    def lost(energy_wh: float) -> float:
        full, rest = divmod(energy_wh / whole, 1.0)
        share: float = most * (full * (1 / depth) ** power + (rest / depth) ** power) / to_end
        return share

    return [lost(use.data["energy_wh"]) for use in uses]


def full_cycles(a: Assessment, uses: Sequence[Lived]) -> Figure:
    """How often what the pack holds went through it."""
    taken = Figure.of(
        "E", sum(use.data["energy_wh"] for use in uses), "Wh", "taken out", how=f"the sum of {len(uses)} entries of use"
    )
    return Figure.by("n", "E / E_nom", "", "full cycles", E=taken, E_nom=a.figures["pack/nominal"])


def tested_capacities(a: Assessment, life: Life, since: date) -> tuple[Figure, list[Tested]]:
    """What the pack held when new, and each test of it, brought to 25 °C.

    Source: C₂₅ = Q / k_T at the temperature of the cells (cold table).
    """
    found = []
    for test in sorted(of_kind(life, "capacity"), key=lambda test: test.on):
        counted = Figure.of("Q", test.data["capacity_ah"], "Ah", "counted", how=f"entered on {calendar_day(test.on)}")
        cold = share_at("k_T", cold_capacity(test.data["cell_c"]), test, "share of the capacity at")
        found.append((test, Figure.by("C_25", "Q / k_T", "Ah", f"capacity at {write_quantity(25.0, '°C')}", Q=counted, k_T=cold)))
    soon = next((figure for test, figure in found if (test.on - since).days <= NEW_DAYS), None)
    new = soon or a.pack.capacity
    share = [Figure.by("k", "C_25 / C_0", "share", "of what it held new", C_25=figure, C_0=new) for _, figure in found]
    return new, [Tested(t.item, t.on, figure, k) for (t, figure), k in zip(found, share, strict=True)]


def tested_resistances(a: Assessment, life: Life, since: date) -> list[Tested]:
    """Each measured resistance, brought to 25 °C, over the first that was measured while the pack was new, or over the design's."""
    found = []
    for test in sorted(of_kind(life, "resistance"), key=lambda test: test.on):
        read = Figure.of("R", test.data["resistance_mohm"] / 1000, "Ω", "measured", how=f"entered on {calendar_day(test.on)}")
        cold = share_at("k_RT", cold_resistance(test.data["cell_c"]), test, "multiple of the resistance at")
        found.append((test, Figure.by("R_25", "R / k_RT", "Ω", f"resistance at {write_quantity(25.0, '°C')}", R=read, k_RT=cold)))
    soon = next((figure for test, figure in found if (test.on - since).days <= NEW_DAYS), None)
    new = soon or a.pack.resistance
    times = [Figure.by("k", "R_25 / R_0", "×", "of what it had new", R_25=figure, R_0=new) for _, figure in found]
    return [Tested(t.item, t.on, figure, k) for (t, figure), k in zip(found, times, strict=True)]


def share_at(symbol: str, value: float, test: Lived, label: str) -> Figure:
    """What the cold table says at the temperature of a test."""
    at = Figure.of("T", test.data["cell_c"], "°C", "cells", how=f"entered on {calendar_day(test.on)}")
    return Figure.of(symbol, value, "×", f"{label} {at.text}", how="by the cold table", inputs={"T": at}, basis=cold_basis())


def course_of(
    since: date, today: date, calendar: float, worn: Sequence[tuple[date, float]], rate: float
) -> list[tuple[date, float]]:
    """The share that is left over the years: as it was used until today, and going on at the same rate; until four fifths, and at least
    until today."""
    out, end = [], constant("capacity_end")
    used = sorted(worn)
    days, sums = [day for day, _ in used], [0.0, *accumulate(loss for _, loss in used)]
    for n in range(FORESEEN_YEARS * A_YEAR + 1):
        on = since + timedelta(n * DAYS_A_YEAR / A_YEAR)
        past = min(on, today)
        lost = calendar * years(since, past) + sums[bisect_right(days, past)] + rate * years(past, on)
        out.append((on, max(0.0, 1 - lost)))
        if 1 - lost <= end and on >= today:
            break
    return out


def reached_on(today: date, left: float, rate: float, end: float) -> date | None:
    """When so much is left, at a loss of so much a year from what is left today; None where that is farther than is looked, or past."""
    ahead = (left - end) / rate if rate > 0 else FORESEEN_YEARS
    return today + timedelta(ahead * DAYS_A_YEAR) if 0 <= ahead < FORESEEN_YEARS else None


def trend(since: date, tests: Sequence[Tested], end: float) -> date | None:
    """When so much is left by a straight line through what was measured; None where the tests lie too close, or nothing is lost.

    Source: least squares.
    """
    if len(tests) < 2 or (tests[-1].on - tests[0].on).days < TREND_DAYS:
        return None
    at = [years(since, test.on) for test in tests]
    shares = [test.share.number for test in tests]
    mean_t, mean_k = sum(at) / len(at), sum(shares) / len(shares)
    slope = sum((t - mean_t) * (k - mean_k) for t, k in zip(at, shares, strict=True)) / sum((t - mean_t) ** 2 for t in at)
    if slope >= -1e-6:
        return None
    ahead = mean_t + (end - mean_k) / slope
    return since + timedelta(ahead * DAYS_A_YEAR) if 0 < ahead < 4 * FORESEEN_YEARS else None
