"""Cut-offs, idle drain, and the manners of inverters and converters."""

from collections.abc import Iterator

from kegcart.core.brief.document import Brief
from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import HAIR, Check, Fault, at_least, at_most, failed, held, is_so, mend, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Converter, Inverter, kind_of
from kegcart.core.power.kinds.base import release_fields
from kegcart.core.power.kinds.inverter import precharge_from, precharge_resistor
from kegcart.core.power.path.cutoffs import BOARD
from kegcart.core.power.path.edits import put_switch
from kegcart.core.power.path.parts import InverterSizing, PartSizing, PowerSizing
from kegcart.core.power.rules.inverters import node_of
from kegcart.core.reference import chemistries, load_kinds


def judge_standby(power: PowerSizing, pack: PackSizing, brief: Brief) -> Iterator[Check]:
    """Cut-offs, idle draw, and what the AC side needs."""
    yield cutoff_order(power)
    yield from cutoff_height(power, pack)
    yield from idle_drain(power, pack, brief)
    for sizing in power.inverters.values():
        node = node_of(sizing, power)
        yield from precharge(sizing, node, power)
        yield from waveform(sizing, node, power)
    for part in power.parts.values():
        if isinstance(part.node, Converter):
            yield from converter_window(part, part.node)


@judges("power.cutoff-order", "order of the cut-offs", MEND)
def cutoff_order(power: PowerSizing) -> Check:
    """Loads go first, then the inverter, then a board; the cells' own limit is never reached.

    Source: practice: loads before inverter before board before the cells' own limit.
    """
    steps = power.cutoffs
    for upper in steps:
        later = [s for s in steps if s.rank > upper.rank]
        above = next((s for s in later if s.volts.number > upper.volts.number + HAIR), None)
        if above is None:
            continue
        patch = [release(step.place) for step in (above, upper) if step.pinned]
        board = any(step.rank == BOARD for step in steps)
        order = "loads, inverter, board, cells" if board else "loads, inverter, cells"
        why = "What goes first should be what is missed least; what goes last is what must not be harmed."
        if board:
            why = "When the board goes first everything is dark at once, the meter too, and some boards stay off until they are woken."
        first = above.name[:1].upper() + above.name[1:]
        fault = mend(
            f"{first} cuts off at {{V_2}}, before {upper.name} at {{V_1}}: the order should be {order}.",
            why,
            {"V_1": upper.volts, "V_2": above.volts},
            (Remedy("Let the cut-offs be chosen", patch),) if patch else (),
        )
        return failed("power.cutoff-order", upper.place, fault)
    return held("power.cutoff-order", steps[0].place)


@judges("power.cutoff-high", "cut-offs against the full pack", STOP)
def cutoff_height(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """What opens by itself where it was decided stays closed on a full pack, under what flows into it at most.

    Source: open-circuit curve of the chemistry less Ohm's law.
    """
    for key, part in power.parts.items():
        acts = kind_of(part.node).cutoff(part.node, key, power.ctx)
        if acts is None or not acts.pinned:
            continue
        full = full_figure(part, power, pack)

        def fault(part: PartSizing = part, cutoff: Figure = acts.volts, full: Figure = full) -> Fault:
            name = part.node.name
            return stop(
                f"{name} opens below {{V_cut}}; full and loaded its source stands at {{V_full}}.",
                "It never feeds what hangs on it, or drops it again and again.",
                {"V_cut": cutoff, "V_full": full},
                (Remedy("Let its cut-off be chosen", release_fields(part.pointer, ("cutoff_v", "restart_v"))),),
            )

        yield at_most("power.cutoff-high", f"{part.pointer}/cutoff_v", acts.volts, full, fault)


def full_figure(part: PartSizing, power: PowerSizing, pack: PackSizing) -> Figure:
    """Voltage of the source of a part, full, at what flows into that part at most, V. Source: Ohm's law."""
    source = part.source
    if source.key == PACK:
        row, series, main = pack.chemistry, pack.series.number, power.main_ohm
    else:
        bank = power.ctx.path.banks[source.key]
        row, series, main = chemistries()[bank.chemistry], bank.series, Figure.of("R_main", 0.0, "Ω", "on the way, left out")
    rested = row.figure("E_full", row.open_circuit(1.0) * series, "V", "rested and full")
    parts = {"E_full": rested, "I": part.current, "R": source.resistance, "R_main": main}
    return Figure.by("V_full", "E_full − I · (R + R_main)", "V", "full, under load", parts)


@judges("power.idle-drain", "days on the shelf", MEND)
def idle_drain(power: PowerSizing, pack: PackSizing, brief: Brief) -> Iterator[Check]:
    """The station lasts on the shelf as long as the brief asks, all loads off.

    Source: the brief's days on the shelf.
    """
    if not power.network.children[PACK]:
        return
    days = power.shelf_days
    wanted = Figure.decided("t_shelf", brief.shelf_days, "days", "it must last on the shelf", "/brief/shelf_days")
    worst = max((i for i in power.idle if not i.switched), key=lambda i: i.watts.number, default=None)
    named = f"; {worst.name} takes the most of it, {{P}}" if worst else ""
    figures = {"t_off": days, "t_shelf": wanted, **({"P": worst.watts} if worst else {})}
    yield at_least(
        "power.idle-drain",
        worst.place if worst else "/power",
        days,
        wanted,
        lambda: mend(
            f"With all loads off it is empty after {{t_off}}; {{t_shelf}} are asked for{named}.",
            "Lithium that has stood empty for weeks is often lost; lead that has stood half empty always.",
            figures,
            drain_remedies(worst.place if worst else "", power, pack),
        ),
        slack=0.0,
    )


def drain_remedies(worst: str, power: PowerSizing, pack: PackSizing) -> tuple[Remedy, ...]:
    """What makes a station last on the shelf, by where the worst drain is decided."""
    remedies = []
    if worst.startswith("/power/network/"):
        remedies.append(Remedy("Put in a main switch that cuts everything off", put_switch(power.network, PACK)))
    left_on = [k for k, n in power.network.nodes.items() if isinstance(n, Inverter) and n.left_on]
    if left_on:
        patch = [set_value(f"/power/network/{k}/left_on", False) for k in left_on]
        remedies.append(Remedy("Switch the inverter off with its loads", patch))
    shunt = power.ctx.path.shunt
    if worst == "/power/shunt" and shunt is not None and shunt.own_draw_ma is not None:
        remedies.append(Remedy("A meter that draws 1 mA asleep", [set_value("/power/shunt/own_draw_ma", 1)]))
    if worst == "/pack/board" and isinstance(pack.pack, CellPack) and pack.pack.board.own_draw_ma:
        remedies.append(Remedy("A board of usual draw", [release("/pack/board/own_draw_ma")]))
    every = max(1, int(power.shelf_days.number))
    remedies.append(Remedy(f"Charge it up every {every} days", [set_value("/brief/shelf_days", every)]))
    return tuple(remedies)


@judges("power.precharge", "pre-charge", MEND)
def precharge(sizing: InverterSizing, node: Inverter, power: PowerSizing) -> Iterator[Check]:
    """The capacitors of a large inverter are charged through a resistor first.

    Source: practice: from 1 kW at 24 V, 500 W from 36 V (assumptions table).
    """
    source, at = power.parts[sizing.key].source, f"/power/network/{sizing.key}/precharge"
    limit = precharge_from(source.v_nom.number)
    if limit is None or sizing.rating.number < limit.number:
        return
    yield is_so(
        "power.precharge",
        at,
        node.precharge is not False,
        lambda: mend(
            f"{node.name} of {{P_rated}} is switched straight onto the pack; from {{P_pre}} its capacitors are charged first.",
            "The inrush welds the switch, and opens fuses and breakers. A resistor, some seconds, then close.",
            {"P_rated": sizing.rating, "P_pre": limit, "R_pre": precharge_resistor(source)},
            (Remedy("Pre-charge through a resistor", [release(at)]),),
        ),
    )


@judges("power.waveform", "waveform for its loads", MEND)
def waveform(sizing: InverterSizing, node: Inverter, power: PowerSizing) -> Iterator[Check]:
    """A load that needs a pure sine gets one.

    Source: makers of motors and some supplies ask for a pure sine (table of kinds of load).
    """
    at = f"/power/network/{sizing.key}/waveform"
    behind = [d for k in power.network.below(sizing.key) for d in power.plugged.get(k, [])]
    needs = [d for d in behind if (d.load.pure_sine if d.load.pure_sine is not None else load_kinds()[d.load.kind].is_motor)]
    if not needs:
        return
    names = ", ".join(d.load.name for d in needs[:3])
    yield is_so(
        "power.waveform",
        at,
        node.waveform == "pure",
        lambda: mend(
            f"{node.name} gives a modified sine; {names} of {{P}} needs a pure one.",
            "On a modified sine motors hum, run hot and weak; some supplies and all medical devices may fail on it.",
            {"P": needs[0].running},
            (Remedy("A pure-sine inverter", [set_value(at, "pure")]),),
        ),
    )


@judges("power.converter")
def converter_window(part: PartSizing, node: Converter) -> Iterator[Check]:
    """The source stays within the converter's input window, where its sheet says one."""
    source, at = part.source, part.pointer

    def limit(volts: float, field: str) -> Figure:
        return Figure.decided("V_in", volts, "V", "input voltage of its sheet", f"{at}/{field}")

    def fault(bound: str, limit: Figure) -> Fault:
        return stop(
            f"{node.name} takes {{V_in}} at {bound}; its source goes from {{V_end}} to {{V_max}}.",
            "Above its window a converter is destroyed; below it its loads go dark while the pack is not empty.",
            {"V_in": limit, "V_end": source.cutoff, "V_max": source.v_max},
            (Remedy("A converter for this pack", release_fields(at, ("window_min_v", "window_max_v"))),),
        )

    if node.window_max_v is not None:
        high, field = limit(node.window_max_v, "window_max_v"), f"{at}/window_max_v"
        yield at_most("power.converter", field, source.v_max, high, lambda: fault("most", high))
    if node.window_min_v is not None:
        low, field = limit(node.window_min_v, "window_min_v"), f"{at}/window_min_v"
        yield at_least("power.converter", field, source.cutoff, low, lambda: fault("least", low))
