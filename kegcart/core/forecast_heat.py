"""The heat of the simulated days: what becomes of cells, inverters and air inside, where the heat of the worst hour comes from, and
where it would end if all went on like that. Assessment and courses -> figures and what the rules of the box read."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from math import inf

from kegcart.core.assess import Assessment, stops_after
from kegcart.core.box.air import air_needed
from kegcart.core.box.heat import BoxHeat, in_sun
from kegcart.core.box.rules.heat import ALLOWANCE, CellsSeen, Cures, InTheBox, InverterSeen, Warmed
from kegcart.core.figure import Figure, Sheet
from kegcart.core.finding import Finding, set_value
from kegcart.core.lane import SHUNT, Places, Season, banks_of, feeds_by_source, surroundings, weather
from kegcart.core.pack.body import cooling
from kegcart.core.power.fed import PACK
from kegcart.core.reference import assumption, chemistries
from kegcart.core.simulation.rest import at_rest
from kegcart.core.simulation.run import Course
from kegcart.core.units import MOST_RISE_K, clock, day_and_hour

HOW = "simulated over the days: losses of every part, walls, sun, vents and fans"
WARM_W = 0.05
"""What gives off less heat in the worst hour is not told apart."""


def warmed(assessment: Assessment, words: str, course: Course, heat: BoxHeat | None, inside: Figure) -> Warmed:
    """A season as the rules of the heat read it. words: the season. inside: its hottest air inside."""
    return Warmed(
        words,
        inside,
        day_and_hour(course.hottest_inside_h),
        cells_seen(assessment, words, course, heat),
        inverters_seen(assessment, words, course),
    )


def cells_seen(assessment: Assessment, words: str, course: Course, heat: BoxHeat | None) -> list[CellsSeen]:
    """Every bank with how warm it became, and how warm it was when it was to be charged."""
    out = []
    further = assessment.power.ctx.path.banks
    sources = dict(reversed([(root, key) for key, root in feeds_by_source(assessment) if key]))
    rows = [assessment.pack.chemistry, *(chemistries()[bank.chemistry] for bank in further.values())]
    for root, row, bank, seen in zip([PACK, *further], rows, banks_of(assessment, heat), course.banks, strict=True):
        limit = row.figure("T_ch", row.charge_max_c, "°C", f"greatest temperature for charging {row.label}")
        charging = Figure.of("T", seen.charged_at_c, "°C", f"{bank.name} when it is to be charged, {words}", how=HOW)
        out.append(
            CellsSeen(
                bank.name,
                place := "/pack" if root == PACK else f"/power/banks/{root}",
                f"/charging/sources/{sources[root]}" if root in sources else f"{place}/charge",
                Figure.of("T_pack", seen.hottest_c, "°C", f"hottest, {bank.name}, {words}", how=HOW),
                charging if seen.charged_at_c > -inf else None,
                limit,
                bank.board is not None and bank.board.lock_above_c < inf,
            )
        )
    return out


def inverters_seen(assessment: Assessment, words: str, course: Course) -> list[InverterSeen]:
    """Every inverter of the path when it was loaded the most for what it held."""
    out = []
    places = Places(assessment)
    for key, branch, used in zip(places.keys, places.parts(), course.used, strict=True):
        if branch.overload is None:
            continue
        kelvin = max(0.0, used.inside_c - branch.overload.derate_c) if used.va else 0.0
        rated = Figure.of("S", branch.overload.rated_va, "VA", f"{branch.name} for long, in cool air")
        air = Figure.of(
            "T", used.inside_c if used.va else assessment.site.hot_c.number, "°C", f"air inside then, {words}", how=HOW
        )
        share = Figure.of("k_T", max(0.1, 1 - branch.overload.derate * kelvin), "×", "left in the heat", inputs={"T": air})
        holds = Figure.by("S_T", "S · k_T", "VA", f"{branch.name} holds then", {"S": rated, "k_T": share})
        asked = Figure.of("S_q", used.va, "VA", f"asked of {branch.name} then, {words}", how=HOW)
        out.append(InverterSeen(branch.name, f"/power/network/{key}", asked, holds, air, day_and_hour(used.hour)))
    return out


def in_the_box(
    assessment: Assessment, courses: Mapping[Season, Course], heat: BoxHeat | None, sheet: Sheet, cures: Cures
) -> InTheBox:
    """What the heat of both seasons is held against; the figures of the worst hour of the hottest one are put on the sheet."""
    a, site, box = assessment, assessment.site, assessment.box
    hottest = max(course.hottest_inside_c for course in courses.values())
    seen = InTheBox(
        allowed=site.inside_c,
        assumed=a.design.brief.inside_rise_k is None,
        chosen=box is not None,
        in_sun=in_sun(box.layout, a.design.brief) if box else None,
        most=most_delicate(a, sheet),
        worse=worse_at(a, hottest) if hottest > site.inside_c.number else (),
        cures=cures,
    )
    course = courses["hottest"]
    watts = worst_hour(a, course, sheet)
    rests(a, course, heat, sheet)
    if heat is None or not heat.fans:
        return seen
    rise = Figure.by("ΔT", "T_in − T_max", "K", "rise allowed for inside", T_in=site.inside_c, T_max=site.hot_c)
    ways = [[fan.flow for fan in heat.fans.values() if (fan.fitting.blows == "out") is out] for out in (True, False)]
    stronger = max(ways, key=lambda flows: sum(flow.number for flow in flows))
    moved = Figure.by("V", "sum", "m³/h", "moved through the box", {f"V_{n}": flow for n, flow in enumerate(stronger, 1)})
    left = Figure.by("Q", "max(0, Q_h − G_box · ΔT)", "W", "left for the fans", Q_h=watts, G_box=heat.stirred, ΔT=rise)
    needed = air_needed(left, rise, heat.density) if rise.number > 0 else None
    return replace(seen, fans=heat.fans, moved=moved, needed=needed)


def most_delicate(assessment: Assessment, sheet: Sheet) -> tuple[str, str, Figure] | None:
    """Of what stands in the box, what works in the least hot air: its name, its place, and that air; what can be touched counts too.
    The limit of every part is put on the sheet."""
    if assessment.box is None:
        return None
    row = assessment.pack.chemistry
    sheet.put(
        "forecast/heat/charge_max", row.figure("T_ch", row.charge_max_c, "°C", f"greatest temperature for charging {row.label}")
    )
    sheet.put("forecast/heat/most/pack", assumption("cell_hottest"))
    layout, found = assessment.box.layout, ("The box", "/box/case", assumption("touch_hottest"))
    inside = [*(s.thing for s in layout.standing.values()), *(f.thing for f in layout.fitted if f.thing)]
    for thing in inside:
        if thing.type is not None:
            most = sheet.put(
                f"forecast/heat/most/{thing.key}", thing.type.figure("T_most", thing.type.air_c, "°C", f"air for {thing.name}")
            )
            if most.number < found[2].number:
                found = (thing.name, thing.place, most)
    return found


def worse_at(assessment: Assessment, inside_c: float) -> Sequence[Finding]:
    """The stops that come up where the hottest air inside is put in for what the brief allows."""
    return stops_after(assessment, [set_value(ALLOWANCE, min(MOST_RISE_K, inside_c - assessment.site.hot_c.number))])


def worst_hour(assessment: Assessment, course: Course, sheet: Sheet) -> Figure:
    """What brought heat in the worst hour, W, each by the key of its place in the box, and all of it together."""
    worst, named = course.worst, dict[str, tuple[str, float]]()
    network = assessment.power.network.nodes
    for key, watts in zip(Places(assessment).keys, worst.parts_w, strict=True):
        named["shunt" if key == SHUNT else f"part:{key}"] = ("shunt" if key == SHUNT else network[key].name, watts)
    for (key, _), watts in zip(feeds_by_source(assessment), worst.feeds_w, strict=True):
        name = assessment.charging.sources[key].name if key else "charger"
        named[f"source:{key}"] = (name, watts)
    keys = ["pack", *(f"bank:{key}" for key in assessment.power.ctx.path.banks)]
    for key, bank, own_w, cells_w in zip(keys, course.banks, worst.boards_w, worst.banks_w, strict=True):
        named[f"own:{key}"] = (f"what {bank.name} draws by itself", own_w)
        named[key] = (f"cells of {bank.name}", cells_w)
    named["sun"] = ("sun through the top", worst.sun_w)
    told = {
        key: sheet.put(f"forecast/hottest/warm/{key}", Figure.of("Q", watts, "W", name, how=HOW))
        for key, (name, watts) in named.items()
        if watts > WARM_W
    }
    inputs = {f"{figure.label} ({n})": figure for n, figure in enumerate(told.values(), 1)}
    whole = Figure.by("Q_h", "sum", "W", "heat of the worst hour", inputs) if inputs else Figure.of("Q_h", 0.0, "W", "heat")
    begins = Figure.of("t_h", clock(worst.hour % 24), "", "the worst hour begins", how=day_and_hour(worst.hour))
    sheet.put("forecast/hottest/worst_at", begins)
    return sheet.put("forecast/hottest/worst", whole)


def rests(assessment: Assessment, course: Course, heat: BoxHeat | None, sheet: Sheet) -> None:
    """Where air and pack would come to rest if the worst hour went on and on, put on the sheet."""
    around, worst = surroundings(assessment, heat, weather(assessment, "hottest")), course.worst
    banks_w = sum(worst.banks_w)
    celsius, switches = at_rest(around, worst.air_w + banks_w, worst.sun_w)
    how = "all that comes in goes out; there the fan switches on and off" if switches else "all that comes in goes out"
    air = sheet.put("forecast/hottest/rest_inside", Figure.of("T_rest", celsius, "°C", "air inside, left running", how=how))
    stands = heat.surfaces.get(PACK) if heat else None
    passes = cooling(assessment.pack.pack, stands or assessment.pack.surface)
    cells = Figure.of("Q_pack", worst.banks_w[0], "W", "heat of its cells in the worst hour", how=HOW)
    label = "pack, left running"
    sheet.put(
        "forecast/hottest/rest_pack", Figure.by("T_pack", "T_rest + Q_pack / G", "°C", label, T_rest=air, Q_pack=cells, G=passes)
    )
    if heat is not None:
        for key, hours in zip(heat.fans, course.fans_h, strict=True):
            sheet.put(f"forecast/hottest/fan_on/{key}", Figure.of("t_on", hours, "h", "the fan runs", how=HOW))
