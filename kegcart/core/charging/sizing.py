"""Charging: how each source is set, what it gives, what it asks of what feeds it."""

from collections.abc import Mapping
from dataclasses import dataclass

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.charging.charged import Charged
from kegcart.core.charging.climate import SunSizing, size_sun
from kegcart.core.charging.document import Charging
from kegcart.core.charging.kinds import ChargingSource, SolarArray, source_kind
from kegcart.core.charging.kinds.base import SourceContext, SourceSizing, chosen_current, decided, in_series_figure
from kegcart.core.charging.warming import WarmingSizing, size_warming
from kegcart.core.choice import typical
from kegcart.core.figure import Figure, Sheet
from kegcart.core.reference import SetPoint, assumption

LEAST_SHARE_A = 0.1
"""What is left of a limit for an automatic source where others have taken all of it, A."""


@dataclass(slots=True, eq=False)
class ChargingSizing:
    """Every source sized, by id, and what they charge. sums: of each bank that has any, what flows into it at once, A.

    sun: where there is an array. warming: where the site can be too cold for charging.
    """

    charging: Charging
    sources: dict[str, SourceSizing]
    charged: Mapping[str, Charged]
    sums: dict[str, Figure]
    sun: SunSizing | None
    warming: WarmingSizing | None

    def of_bank(self, key: str) -> list[SourceSizing]:
        """The sources that charge a bank."""
        return [s for s in self.sources.values() if s.charged.key == key]


def size_charging(
    charging: Charging, charged: Mapping[str, Charged], joins: Mapping[str, str], brief: Brief, site: Site, sheet: Sheet
) -> ChargingSizing:
    """Every source. charged: what can be charged, by id, the pack first. joins: the bank that a source joins; one that joins nowhere
    counts as at the posts of the pack.
    """
    pack = next(iter(charged))
    banks = {key: charged[joins.get(key, pack)] for key in charging.sources}
    sources: dict[str, SourceSizing] = {}
    sun = size_sun(charging.sun) if any(isinstance(s, SolarArray) for s in charging.sources.values()) else None
    for key, source in charging.sources.items():
        ctx = SourceContext(brief, site, charging.goal, banks[key], left_for(key, charging, banks), key, sheet, sun)
        sources[key] = size_source(source, ctx)
    sums = {}
    for bank in charged:
        if into := [s for s in sources.values() if s.charged.key == bank]:
            sums[bank] = sheet.put(f"charging/sums/{bank}", greatest_sum(into))
    return ChargingSizing(charging, sources, charged, sums, sun, size_warming(charging.pad, charged[pack], site, sheet))


def left_for(key: str, charging: Charging, banks: Mapping[str, Charged]) -> float:
    """What is left of the limit of a bank for one automatic source: the limit less what others are set to, in equal parts, A."""
    bank = banks[key]
    others = [k for k in charging.sources if banks[k] is bank]
    pinned = sum(s.current_a * source_kind(s).units(s)[1] for k in others if (s := charging.sources[k]).current_a is not None)
    free = sum(charging.sources[k].current_a is None for k in others)
    return max(LEAST_SHARE_A, (bank.limit.number - pinned) / max(1, free))


def size_source(source: ChargingSource, ctx: SourceContext) -> SourceSizing:
    """One source: its set points, the current it may give, and what follows from that.

    Source: P = U · I, efficiency is output over input (definitions).
    """
    kind, at = source_kind(source), f"/charging/sources/{ctx.key}"
    row, charged = ctx.charged.set_point(ctx.goal), ctx.charged
    tail = typical(
        "I_tail", source.tail_a, row.tail * charged.capacity.number, "A", "current at which it ends", f"{at}/tail_a", row
    )
    sizing = SourceSizing(ctx.key, source, at, charged, tail, diode_drop(source, tail, at), kind.hours(source, ctx))
    in_series, beside = kind.units(source)
    set_voltages(sizing, row, in_series, ctx)
    sizing.limits = kind.limits(source, sizing, ctx)
    flows = kind.flows(source, sizing, ctx)
    if flows is None:
        sizing.one = ctx.put("one", chosen_current(source, kind.facts, sizing, ctx, beside))
        flows = kind.into(source, sizing)
    else:
        sizing.one = ctx.put("one", flows)
    sizing.current = ctx.put("current", flows)
    sizing.efficiency = ctx.put("efficiency", kind.efficiency(source, sizing, ctx))
    of = {"n": in_series_figure(in_series), "V_set": sizing.set_point, "I": sizing.current, "η": sizing.efficiency}
    sizing.taken_w = ctx.put("taken_w", Figure.by("P_in", "n · V_set · I / η", "W", "taken by it at its greatest", of))
    sizing.idle = kind.own_draw(source, sizing)
    kind.size(source, sizing, ctx)
    return sizing


def diode_drop(source: ChargingSource, tail: Figure, at: str) -> Figure:
    """What a series diode takes at the tail, V: there it drops least, so that the pack never sees more than it is set for.

    Source: a diode is a threshold and a resistance (typical, assumptions table).
    """
    if source.diode == "none":
        return Figure.of("V_diode", 0.0, "V", "diode", how="there is none")
    if source.diode_v is not None:
        return Figure.decided("V_diode", source.diode_v, "V", "drop of the diode at the tail", f"{at}/diode_v")
    of = {"V_d": assumption(f"{source.diode}_v"), "R_d": assumption(f"{source.diode}_ohm"), "I_tail": tail}
    return Figure.by("V_diode", "V_d + R_d · I_tail", "V", "drop of the diode at the tail", of)


def set_voltages(sizing: SourceSizing, row: SetPoint, in_series: int, ctx: SourceContext) -> None:
    """What it is set to, what the bank sees of that in the end, and where it is held once full, V.

    Source: set points a cell (set points table); a cell's stop of the board less a headroom, as the highest group is there first;
    the drop of a series diode on top.
    """
    source, charged, put = sizing.source, ctx.charged, ctx.put
    units = in_series_figure(in_series)
    cell = row.figure("v_abs", row.absorb_v, "V", f"set point of a cell, {charged.row.label}")
    of = {"S": charged.series, "v_abs": cell, "V_diode": sizing.drop, "n": units}
    if charged.stop_v is not None:
        of |= {"v_stop": charged.stop_v, "ΔV_b": assumption("board_headroom")}
    v_cell = "min(v_abs, v_stop − ΔV_b)" if charged.stop_v is not None else "v_abs"
    auto = Figure.by("V_set", f"S · {v_cell} / n + V_diode", "V", "held at its output", of)
    if source.set_v is not None:
        auto = decided("V_set", source.set_v, "V", "held at its output", sizing, "set_v")
    sizing.set_point = put("set_point", auto)
    seen = {"n": units, "V_set": sizing.set_point, "V_diode": sizing.drop}
    sizing.at_pack = put("at_pack", Figure.by("V_pack", "n · (V_set − V_diode)", "V", f"{charged.name} sees in the end", seen))
    if source.float_v is not None:
        sizing.held = put("held", decided("V_float", source.float_v, "V", "held when full", sizing, "float_v"))
    elif row.float_v is not None and charged.row.kind == "lead":
        cell = row.figure("v_fl", row.float_v, "V", f"float of a cell, {charged.row.label}")
        of = {"S": charged.series, "v_fl": cell, "V_diode": sizing.drop, "n": units}
        sizing.held = put("held", Figure.by("V_float", "S · v_fl / n + V_diode", "V", "held when full", of))
    sizing.tail, sizing.drop = put("tail", sizing.tail), put("drop", sizing.drop)


def greatest_sum(into: list[SourceSizing]) -> Figure:
    """The greatest current that flows into a bank at once from all sources whose hours meet, A.

    Source: currents add at a node (Kirchhoff).
    """
    edges = sorted({hour for s in into for span in s.hours for hour in span})
    best: dict[str, Figure] = {}
    for hour in edges:
        now = {f"{s.name} ({s.key})": s.current for s in into if any(a <= hour < b for a, b in s.hours)}
        if sum(f.number for f in now.values()) > sum(f.number for f in best.values()):
            best = now
    return Figure.by("I_sum", "sum", "A", f"into {into[0].charged.name} at once, all loads off", best)
