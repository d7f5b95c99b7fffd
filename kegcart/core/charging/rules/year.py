"""The sun of each month against what the days ask for."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from math import ceil, isfinite

from kegcart.core.catalogue import MEND, NOTE, judges
from kegcart.core.charging import sun
from kegcart.core.charging.kinds import SolarArray
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.charging.year import MONTHS, Year, scaled, stretches
from kegcart.core.charging.yields import Plane, mean_days
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
    array, factor, needed = year.arrays[0], scaled(year), year.needed.number
    source, plane, at = array.source, array.plane, array.pointer
    if len(year.arrays) > 1 or not isinstance(source, SolarArray) or plane is None or not isfinite(factor):
        return
    watts, volts = array.extra["sun_power"].number * array.extra["share"].number, array.charged.half_full().number
    if source.tilt_deg is not None and not source.on_roof:
        best = replace(plane, tilt=sun.best_tilt(plane.place, plane.facing))
        if covers(best, watts, array.current.number * volts, needed, list(MONTHS)):
            yield Remedy(f"Tilt them by {best.tilt:.0f}°", [release(f"{at}/tilt_deg")])
    joined, series = array.extra["joined"].number, int(array.extra["in_series"].number)
    panels = ceil(joined * factor / series) * series
    if source.panels < panels <= MOST_PANELS and covers(
        plane, watts * panels / joined, most_a(array) * volts, needed, year.short
    ):
        freed = [release(f"{at}/controller")] if source.controller is not None else []
        patch = [set_value(f"{at}/panels", panels), set_value(f"{at}/in_series", series), *freed]
        yield Remedy(f"{panels} panels in place of {source.panels}, {series} in a string", patch)


def most_a(array: SourceSizing) -> float:
    """What more panels could bring at most, A: by the largest controller, and by what may be charged."""
    source, bounds = array.source, array.one.inputs or {}
    assert isinstance(source, SolarArray)
    sold = max(c.amps for c in controller_types().values() if c.type == source.type)
    held = (
        [f.number for name, f in bounds.items() if not name.startswith("limit")]
        if source.current_a is None
        else [source.current_a]
    )
    return min([source.controller_sheet.amps or sold, *held])


def covers(plane: Plane, watts: float, most_w: float, needed_wh: float, months: list[int]) -> bool:
    """Whether panels that make so many W in full sun, of which so many are let through, bring what is needed on the mean day of months."""
    days = mean_days(plane)
    return all(sum(min(most_w, watts * sun_w / 1000) for sun_w in days[month - 1]) >= needed_wh for month in months)


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
