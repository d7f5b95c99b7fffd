"""Findings on cut-offs, idle drain, the inverter's manners and the AC side."""

from collections.abc import Iterator

from kegcart.core.brief.document import Brief
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy, Severity, release, set_value
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.ac import has_rcd
from kegcart.core.power.cutoffs import chain
from kegcart.core.power.document import PACK, Converter, Inverter, Outlet
from kegcart.core.power.edits import put_switch
from kegcart.core.power.inverters import precharge_from, precharge_resistor
from kegcart.core.power.parts import InverterSizing, PowerSizing
from kegcart.core.reference import load_kinds

HAIR = 1e-9


def judge_standby(power: PowerSizing, loads: LoadsSizing, pack: PackSizing, brief: Brief) -> Iterator[Finding]:
    yield from cutoff_order(power, pack)
    yield from idle_drain(power, pack, brief)
    for sizing in power.inverters.values():
        yield from precharge(sizing, power)
        yield from waveform(sizing, power)
        yield from rcd(sizing, power, brief)
        yield from neutral_bond(sizing, power)
    for key in power.network.outlets():
        yield from ac_breaker(key, power)
    for key, part in power.parts.items():
        if isinstance(part.node, Converter):
            yield from converter_window(key, part.node, power)


def cutoff_order(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    """Loads go first, then the inverter, then the board; the cells' own limit is never reached."""
    steps = chain(power, pack)
    for upper in steps:
        later = [s for s in steps if s.rank > upper.rank]
        above = next((s for s in later if s.volts.number > upper.volts.number + HAIR), None)
        if above is None:
            continue
        patch = [release(step.place) for step in (above, upper) if step.pinned]
        yield Finding(
            "power.cutoff-order",
            "power",
            Severity.MEND,
            upper.place,
            f"{above.name[:1].upper()}{above.name[1:]} cuts off at {{V_2}}, before {upper.name} at {{V_1}}: the order should be loads, inverter, board, cells.",
            "When the board goes first everything is dark at once, the meter too, and some boards stay off until they are woken.",
            {"V_1": upper.volts, "V_2": above.volts},
            (Remedy("Let the cut-offs be chosen", patch),) if patch else (),
        )
        return


def idle_drain(power: PowerSizing, pack: PackSizing, brief: Brief) -> Iterator[Finding]:
    days = power.shelf_days
    if days.number >= brief.shelf_days or not power.network.children[PACK]:
        return
    wanted = Figure.decided("t_shelf", brief.shelf_days, "days", "it must last on the shelf", "/brief/shelf_days")
    drains = [i for i in power.idle if not i.switched]
    worst = max(drains, key=lambda i: i.watts.number, default=None)
    remedies = []
    if worst is not None and worst.place.startswith("/power/network/"):
        remedies.append(Remedy("Put in a main switch that cuts everything off", put_switch(power.network)))
    left_on = [k for k, n in power.network.nodes.items() if isinstance(n, Inverter) and n.left_on]
    if left_on:
        patch = [set_value(f"/power/network/{k}/left_on", False) for k in left_on]
        remedies.append(Remedy("Switch the inverter off with its loads", patch))
    if worst is not None and worst.place == "/power/shunt":
        remedies.append(Remedy("A meter that draws 1 mA asleep", [set_value("/power/shunt/own_draw_ma", 1)]))
    if worst is not None and worst.place == "/pack/board" and isinstance(pack.pack, CellPack) and pack.pack.board.own_draw_ma:
        remedies.append(Remedy("A board of usual draw", [release("/pack/board/own_draw_ma")]))
    remedies.append(
        Remedy(f"Charge it up every {max(1, int(days.number))} days", [set_value("/brief/shelf_days", max(1, int(days.number)))])
    )
    named = f"; {worst.name} takes the most of it, {{P}}" if worst else ""
    figures = {"t_off": days, "t_shelf": wanted, **({"P": worst.watts} if worst else {})}
    yield Finding(
        "power.idle-drain",
        "power",
        Severity.MEND,
        worst.place if worst else "/power",
        f"With all loads off it is empty after {{t_off}}; {{t_shelf}} are wanted{named}.",
        "Lithium that has stood empty for weeks is often lost; lead that has stood half empty always.",
        figures,
        tuple(remedies),
    )


def precharge(sizing: InverterSizing, power: PowerSizing) -> Iterator[Finding]:
    node = power.parts[sizing.key].node
    assert isinstance(node, Inverter)
    source = power.parts[sizing.key].source
    limit = precharge_from(source.v_nom.number)
    if node.precharge is not False or limit is None or sizing.rating.number < limit.number:
        return
    at = f"/power/network/{sizing.key}/precharge"
    yield Finding(
        "power.precharge",
        "power",
        Severity.MEND,
        at,
        f"{node.name} of {{P_rated}} is switched straight onto the pack; from {{P_pre}} its capacitors want charging first.",
        "The inrush welds the switch, opens fuses, and makes the board trip. A resistor, some seconds, then close.",
        {"P_rated": sizing.rating, "P_pre": limit, "R_pre": precharge_resistor(source)},
        (Remedy("Pre-charge through a resistor", [release(at)]),),
    )


def waveform(sizing: InverterSizing, power: PowerSizing) -> Iterator[Finding]:
    node = power.parts[sizing.key].node
    assert isinstance(node, Inverter)
    if node.waveform == "pure":
        return
    behind = [d for k in power.network.below(sizing.key) for d in power.plugged.get(k, [])]
    wants = [d for d in behind if (d.load.pure_sine if d.load.pure_sine is not None else load_kinds()[d.load.kind].is_motor)]
    if not wants:
        return
    at = f"/power/network/{sizing.key}/waveform"
    names = ", ".join(d.load.name for d in wants[:3])
    yield Finding(
        "power.waveform",
        "power",
        Severity.MEND,
        at,
        f"{node.name} gives a modified sine; {names} of {{P}} wants a pure one.",
        "On a modified sine motors hum, run hot and weak; some supplies and all medical devices may fail on it.",
        {"P": wants[0].running},
        (Remedy("A pure-sine inverter", [set_value(at, "pure")]),),
    )


def rcd(sizing: InverterSizing, power: PowerSizing, brief: Brief) -> Iterator[Finding]:
    node = power.parts[sizing.key].node
    assert isinstance(node, Inverter)
    outlets = [k for k in power.network.below(sizing.key) if isinstance(power.network.nodes[k], Outlet)]
    if brief.exposure != "wet" or has_rcd(node, brief.exposure) or not outlets:
        return
    at = f"/power/network/{sizing.key}/rcd"
    yield Finding(
        "power.rcd",
        "power",
        Severity.MEND,
        at,
        f"The AC outlets of {node.name}, {{P_rated}}, stand in the wet without residual-current protection.",
        "Wet hands and a cracked lead: only a residual-current device opens before a heart stops. Test it on this inverter with its own button and a tester.",
        {"P_rated": sizing.rating},
        (Remedy("Residual-current protection, 30 mA", [release(at)]),),
    )


def neutral_bond(sizing: InverterSizing, power: PowerSizing) -> Iterator[Finding]:
    node = power.parts[sizing.key].node
    assert isinstance(node, Inverter)
    if node.bond != "not known" or not power.network.children[sizing.key]:
        return
    at = f"/power/network/{sizing.key}/bond"
    yield Finding(
        "power.neutral-bond",
        "power",
        Severity.NOTE,
        at,
        f"{node.name}, {{P_rated}}: whether its neutral is bonded to earth, and where, is not said.",
        "Only as its manual allows, once, and never with a second source. A residual-current device needs the bond to work; some chargers refuse a floating output. This is work under local code, by licensed hands where the code says so.",
        {"P_rated": sizing.rating},
        (Remedy("It is as its manual says", [set_value(at, "as its manual says")]),),
    )


def ac_breaker(key: str, power: PowerSizing) -> Iterator[Finding]:
    """AC outlet, wire and breaker agree."""
    part = power.parts[key]
    node, breaker = part.node, part.extra.get("breaker")
    if not isinstance(node, Outlet) or breaker is None or part.rating is None:
        return
    at, wire = f"{part.pointer}/breaker_a", part.extra.get("ac_ampacity")
    figures = {"I_b": breaker, "I_con": part.rating}
    if breaker.number > part.rating.number + HAIR:
        wrong = "the socket bears {I_con}"
    elif wire is not None and breaker.number > wire.number + HAIR:
        wrong, figures = "its cable bears {I_amp}", {"I_b": breaker, "I_amp": wire}
    elif part.extra["asked"].number > breaker.number + HAIR:
        wrong, figures = "{I} is asked of it", {"I_b": breaker, "I": part.extra["asked"]}
    else:
        return
    patch = [release(at), release(f"{part.pointer}/run/gauge"), release(f"{part.pointer}/connector")]
    pinned = node.breaker_a or node.run.gauge or node.connector
    yield Finding(
        "power.ac-breaker",
        "power",
        Severity.STOP,
        at,
        f"{node.name}: its breaker is {{I_b}}, and {wrong}.",
        "The breaker protects cable and socket: the smallest of the three must be the breaker.",
        figures,
        (Remedy("Let breaker, cable and socket be sized together", patch),) if pinned else (),
    )


def converter_window(key: str, node: Converter, power: PowerSizing) -> Iterator[Finding]:
    source, at = power.parts[key].source, f"/power/network/{key}"
    low, high = node.window_min_v, node.window_max_v
    if (low is None or source.cutoff.number >= low - HAIR) and (high is None or source.v_max.number <= high + HAIR):
        return
    field, bound = ("window_max_v", high) if high is not None and source.v_max.number > high else ("window_min_v", low)
    limit = Figure.decided("V_in", bound or 0.0, "V", "input voltage of its sheet", f"{at}/{field}")
    yield Finding(
        "power.converter",
        "power",
        Severity.STOP,
        f"{at}/{field}",
        f"{node.name} takes {{V_in}} at {'most' if field == 'window_max_v' else 'least'}; its source goes from {{V_bms}} to {{V_max}}.",
        "Above its window a converter is destroyed; below it its loads go dark while the pack is not empty.",
        {"V_in": limit, "V_bms": source.cutoff, "V_max": source.v_max},
        (Remedy("A converter for this pack", [release(f"{at}/window_min_v"), release(f"{at}/window_max_v")]),),
    )
