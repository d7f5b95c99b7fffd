"""Figures of the brief that every station reads."""

from dataclasses import dataclass

from kegcart.core.brief.document import Brief
from kegcart.core.choice import assumed
from kegcart.core.electrical.cables import Practice
from kegcart.core.figure import Figure, Sheet


@dataclass(frozen=True, slots=True)
class Site:
    """Temperatures in °C at the site and inside the box, the rhythm of charging in hours, and how cables are sized."""

    cold_c: Figure
    hot_c: Figure
    inside_c: Figure
    hours_away: Figure
    reserve: Figure
    growth: Figure
    practice: Practice


def size_brief(brief: Brief, sheet: Sheet) -> Site:
    """Site figures from the brief.

    Source: sum of temperatures; the rise inside a closed box is a typical allowance (assumptions table).
    """
    cold = sheet.put(
        "brief/site_min", Figure.decided("T_min", brief.site_min_c, "°C", "coldest at the site", "/brief/site_min_c")
    )
    hot = sheet.put("brief/site_max", Figure.decided("T_max", brief.site_max_c, "°C", "hottest at the site", "/brief/site_max_c"))
    rise = sheet.put(
        "brief/inside_rise", assumed("ΔT", brief.inside_rise_k, "inside_rise", "K", "inside over outside", "/brief/inside_rise_k")
    )
    inside = Figure.by("T_in", "T_max + ΔT", "°C", "hottest inside the box", T_max=hot, ΔT=rise)
    return Site(
        cold,
        hot,
        sheet.put("brief/inside", inside),
        sheet.put("brief/hours_away", Figure.decided("t_away", brief.hours_away, "h", "between charges", "/brief/hours_away")),
        sheet.put("brief/reserve", Figure.decided("r", brief.reserve, "share", "reserve", "/brief/reserve")),
        sheet.put("brief/growth", Figure.decided("g", brief.growth, "share", "growth allowed for", "/brief/growth")),
        Practice(brief.wire_school, brief.gauge_system, inside),
    )
