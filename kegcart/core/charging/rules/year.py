"""The sun of each month against what the days ask for."""

from collections.abc import Iterator, Mapping
from math import ceil, isfinite

from kegcart.core.catalogue import MEND, NOTE, judges
from kegcart.core.charging import sun
from kegcart.core.charging.kinds import SolarArray
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.charging.year import Year, scaled, stretches
from kegcart.core.charging.yields import mean_days
from kegcart.core.check import Check, Fault, at_least, is_so, mend, not_yet, note
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.reference import assumption, controller_types
from kegcart.core.units import NOTHING

MOST_PANELS = 60
"""No more are proposed: then it is another plan that is needed."""


def judge_year(charging: ChargingSizing, years: Mapping[str, Year]) -> Iterator[Check]:
    """Every check of the sun over the year."""
    if charging.sun is not None:
        yield typed_sun(charging)
    for year in years.values():
        yield solar_short(year)


def months_in_words(months: list[int]) -> str:
    """`from November to February`, `in June and from August to September`."""
    parts = []
    for first, last in stretches(months):
        if (first, last) == (1, 12):
            return "all the year"
        parts.append(
            f"in {sun.MONTHS[first - 1]}" if first == last else f"from {sun.MONTHS[first - 1]} to {sun.MONTHS[last - 1]}"
        )
    return " and ".join(parts)


@judges("charging.solar-short", "the sun of each month", MEND, NOTE)
def solar_short(year: Year) -> Check:
    """In every month the sun brings what the days ask for; where it does not, the other sources bring the rest.

    Source: hours of full sun on the panels by month, times their power, times what arrives of it (practice, assumptions table).
    """
    first = year.arrays[0]
    at, poorest = f"{first.pointer}/panels", year.sun[year.poorest - 1]
    if year.needed.number <= NOTHING:
        return not_yet("charging.solar-short", at, "a load that runs")
    figures = {"E_sun": poorest, "E_need": year.needed, "E_others": year.others}
    said, month = months_in_words(year.short), sun.MONTHS[year.poorest - 1]
    said = said[:1].upper() + said[1:] + " the sun brings less than the {E_need} that a day asks for"
    said += f", in {month} {{E_sun}}" if len(year.short) > 1 else ": {E_sun}"

    def fault() -> Fault:
        if poorest.number + year.others.number >= year.needed.number:
            return note(
                f"{said}. The other sources can bring {{E_others}} a day.",
                "They must be there in those months, and have the time.",
                figures,
                tuple(more_sun(year)),
            )
        return mend(
            f"{said}, and the other sources can bring {{E_others}}." if year.others.number > 0 else f"{said}.",
            "Each day then begins with less than the one before, until it goes dark.",
            figures,
            tuple(more_sun(year)),
        )

    return at_least("charging.solar-short", at, poorest, year.needed, fault)


def more_sun(year: Year) -> Iterator[Remedy]:
    """Panels that stand as is best for the poorest month, where that is enough; more of them."""
    first, factor = year.arrays[0], scaled(year)
    source = first.source
    if len(year.arrays) > 1 or not isinstance(source, SolarArray) or not isfinite(factor):
        return
    plane, at = first.plane, first.pointer
    assert plane is not None
    tilt = sun.best_tilt(plane.place, plane.facing)
    better = sun.mean_days(plane.place, tilt, plane.facing)
    gains = [
        sum(row) / max(sum(now), NOTHING)
        for row, now in zip(better, sun.mean_days(plane.place, plane.tilt, plane.facing), strict=True)
    ]
    enough = all(have.number * gain >= year.needed.number for have, gain in zip(year.sun, gains, strict=True))
    if source.tilt_deg is not None and enough:
        yield Remedy(f"Tilt them by {tilt:.0f}°", [release(f"{at}/tilt_deg")])
    series = int(first.extra["in_series"].number)
    panels = ceil(first.extra["joined"].number * factor / series) * series
    if source.panels < panels <= MOST_PANELS and would_cover(first, panels, year.needed.number, year.short):
        freed = [release(f"{at}/{name}") for name in ("controller", "current_a") if getattr(source, name) is not None]
        yield Remedy(f"{panels} panels in place of {source.panels}", [set_value(f"{at}/panels", panels), *freed])


def would_cover(array: SourceSizing, panels: int, needed_wh: float, short: list[int]) -> bool:
    """Whether so many panels bring what is needed on the mean day of the months that are short, as the largest controller and what may be charged
    let them.
    """
    assert array.plane is not None
    source, bounds = array.source, array.one.inputs or {}
    assert isinstance(source, SolarArray)
    amps = [c.amps for c in controller_types().values() if c.type == source.type]
    most_a = min([max(amps), *(f.number for name, f in bounds.items() if not name.startswith("limit"))])
    most_w = most_a * array.charged.half_full().number
    made_w = array.extra["sun_power"].number * panels / array.extra["joined"].number * array.extra["share"].number / 1000
    days = mean_days(array.plane)
    return all(sum(min(most_w, made_w * sun_w) for sun_w in days[month - 1]) >= needed_wh for month in short)


@judges("charging.sun-table", "the hours of sun that were typed", MEND)
def typed_sun(charging: ChargingSizing) -> Check:
    """Of no month more sun was typed than a clear sky gives at its latitude.

    Source: clearness of the clearest skies (assumptions table); light above the air by latitude (Spencer 1971).
    """
    there = charging.sun
    assert there is not None
    at = "/charging/sun/sun_hours"
    return is_so(
        "charging.sun-table",
        at,
        not there.beyond,
        lambda: mend(
            f"More hours of full sun are typed {months_in_words(list(there.beyond))} than a clear sky gives at {{φ}}; there {{K_most}} "
            "of the light above the air is counted.",
            "Figures for a tilted plane, for another latitude, or in another unit, promise sun that does not come.",
            {"φ": there.latitude, "K_most": assumption("clearest")},
            (Remedy("The sun of the climate", [release(at)]),),
        ),
    )
