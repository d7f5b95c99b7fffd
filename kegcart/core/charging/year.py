"""The year: what is asked of a bank each day, and what the sun and the other sources bring of it, month by month."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import inf

from kegcart.core.charging.kinds import SolarArray, source_kind
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.figure import Figure, Sheet
from kegcart.core.units import NOTHING

MONTHS = range(1, 13)


@dataclass(frozen=True, slots=True, eq=False)
class Need:
    """What a bank is asked for: `day` Wh taken from it a day, `usable` Wh that it holds."""

    day: Figure
    usable: Figure


@dataclass(frozen=True, slots=True, eq=False)
class Year:
    """A bank with an array, over the year. Energies in Wh a day, at its posts.

    needed: what must come in each day. sun: by month, from January. others: what all other sources can bring a day.
    arrays: those that charge it.
    """

    bank: str
    needed: Figure
    sun: tuple[Figure, ...]
    others: Figure
    arrays: list[SourceSizing]

    @property
    def short(self) -> list[int]:
        """The months (from 1) in which the sun alone does not bring what is needed."""
        return [month for month in MONTHS if self.sun[month - 1].number < self.needed.number - NOTHING]

    def falls_short(self, month: int) -> bool:
        """Whether all sources together bring less than is needed in a month (from 1)."""
        return self.sun[month - 1].number + self.others.number < self.needed.number - NOTHING

    @property
    def poorest(self) -> int:
        """The month with the least sun."""
        return min(MONTHS, key=lambda month: self.sun[month - 1].number)


def size_year(charging: ChargingSizing, needs: Mapping[str, Need], pattern: int, sheet: Sheet) -> dict[str, Year]:
    """The year of every bank that an array charges, by its id. needs: of each bank. pattern: days of the loads' pattern."""
    years = {}
    for bank in charging.charged:
        arrays = [s for s in charging.of_bank(bank) if isinstance(s.source, SolarArray)]
        if arrays:
            years[bank] = Year(bank, *year_of(bank, arrays, charging, needs[bank], pattern, sheet), arrays)
    return years


def year_of(
    bank: str, arrays: list[SourceSizing], charging: ChargingSizing, need: Need, pattern: int, sheet: Sheet
) -> tuple[Figure, tuple[Figure, ...], Figure]:
    """What is needed a day, what the sun brings by month, and what the others can bring.

    Source: energies add; of the charge that is put in, a share can be taken out again (chemistries table).
    """
    charged, at = charging.charged[bank], f"charging/year/{bank}"
    eta = charged.row.figure("η_q", charged.row.coulombic, "share", "of the charge put in, what can be taken out")
    label = f"must come into {charged.name} a day"
    needed = sheet.put(f"{at}/needed", Figure.by("E_need", "E_day / η_q", "Wh", label, E_day=need.day, η_q=eta))
    rest = [s for s in charging.of_bank(bank) if s not in arrays]
    others = {f"{s.name} ({s.key})": on_the_mean_day(s, 1, pattern) for s in rest}
    able = sheet.put(f"{at}/others", Figure.by("E_others", "sum", "Wh", "all other sources can bring a day", others))
    power = Figure.by("P", "sum", "W", "power of the panels", {f"{s.name} ({s.key})": s.extra["sun_power"] for s in arrays})
    suns = []
    for month in MONTHS:
        of = {f"{s.name} ({s.key})": on_the_mean_day(s, month, pattern) for s in arrays}
        sun = next(iter(of.values())) if len(of) == 1 else Figure.by("E_sun", "sum", "Wh", "brought by the sun a day", of)
        suns.append(sun if sun.path else sheet.put(f"{at}/{month}/sun", sun))
        if sun.number >= needed.number - NOTHING:
            continue
        of = {"E_need": needed, "E_sun": sun}
        sheet.put(f"{at}/{month}/rest", Figure.by("E_rest", "E_need − E_sun", "Wh", "left to the other sources a day", of))
        if sun.number > NOTHING:
            of = {"P": power, "E_need": needed, "E_sun": sun}
            sheet.put(f"{at}/{month}/watts", Figure.by("P_need", "P · E_need / E_sun", "W", "panels that would bring it all", of))
    if needed.number > NOTHING:
        of = {"E_use": need.usable, "E_day": need.day}
        sheet.put(f"{at}/bridged", Figure.by("t_dark", "24 · E_use / E_day", "h", "without any sun, from full to empty", of))
    return needed, tuple(suns), able


def on_the_mean_day(sizing: SourceSizing, month: int, pattern: int) -> Figure:
    """What a source can bring on the mean of a pattern of so many days, in a month (from 1), Wh."""
    source = sizing.source
    whole, days = source_kind(source).day_wh(source, sizing, month), len(source.days_in(pattern))
    if days == pattern:
        return whole
    on = Figure.decided("n_on", days, "", "days on which it gives", f"{sizing.pointer}/days")
    of = {"E": whole, "n_on": on, "n_d": Figure.of("n_d", pattern, "", "days of the pattern", how="as of the loads")}
    return Figure.by("E_mean", "E · n_on / n_d", "Wh", f"{sizing.name}, the mean of its days", of)


def stretches(months: list[int]) -> Iterator[tuple[int, int]]:
    """Months (from 1) as stretches from first to last, over the turn of the year where they reach it."""
    inside = set(months)
    for month in months:
        if (month - 2) % 12 + 1 not in inside:
            last = month
            while last % 12 + 1 in inside:
                last = last % 12 + 1
            yield month, last
    if len(inside) == len(MONTHS):
        yield 1, 12


def scaled(year: Year) -> float:
    """How many times as large all arrays must be for the poorest month; infinite where there is no sun."""
    least = year.sun[year.poorest - 1].number
    return year.needed.number / least if least > NOTHING else inf
