"""The pack on the bench: looked at, brought to one voltage, stacked, linked, its leads fixed and measured, and covered."""

from kegcart.core.assembly.cutting import Piece
from kegcart.core.assembly.plan.acts import Act, BuildPlan, Measure
from kegcart.core.figure import Figure
from kegcart.core.pack.document import Bank, CellPack
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference import assumption
from kegcart.core.units import write_quantity

LIVE = "A pack cannot be switched off: no rings or watches, insulated tools, eyes covered, every post capped but the one in hand."
CHARGING = "Never charge unattended, in an escape route, or near what burns."
DAMAGED = "Damaged or swollen cells go out, in sand, to a collection point."


TORQUED = Measure("torque", "Each nut to its torque, and marked", causes=("the lug is for another stud", "a washer left out"))


def voltage_of(power: PowerSizing, label: str) -> tuple[Figure, Figure]:
    """The least and the greatest voltage at which the pack may stand, V."""
    source = power.sources[PACK]
    return (
        Figure.by("V_least", "V_low", "V", f"{label}, at least", V_low=source.v_low),
        Figure.by("V_most", "V_max", "V", f"{label}, at most", V_max=source.v_max),
    )


def plan_pack(pack: PackSizing, power: PowerSizing, pieces: list[Piece], plan: BuildPlan) -> None:
    """The acts on the pack before it goes into the box."""
    if isinstance(pack.pack, CellPack):
        plan_cells(pack.pack, pack, power, plan)
    else:
        plan_batteries(pack, power, plan)
    for key, source in power.sources.items():
        if key != PACK:
            volts = Measure("volts", "Voltage at its posts", "V", source.v_nom, source.v_low, source.v_max, DISCHARGED)
            text = "Look at its case and posts, measure it, cap both posts."
            look = f"bank:{key}"
            plan.add(
                Act(look, "pack", "look", f"Look at {source.name}", text, (source.pointer,), measures=(volts,), caution=LIVE)
            )


def apart(series: Figure, what: str) -> Figure:
    """How far what is joined may stand apart, mV; series: how many cells in series in each. Source: assumptions table."""
    return Figure.by("ΔV_most", "1000 · n_s · ΔV_c", "mV", f"{what} may be apart", n_s=series, ΔV_c=assumption("join_cell"))


DISCHARGED = ("it is empty or was kept empty", "a cell of it is dead", "the meter stands on AC")


def plan_batteries(pack: PackSizing, power: PowerSizing, plan: BuildPlan) -> None:
    """Finished batteries: looked at, brought to one voltage where there are several, covered."""
    build = pack.pack
    in_series = build.in_series if isinstance(build, Bank) else 1
    count, what = int(pack.parallel.number) * in_series, "module" if build.form == "modules" else "battery"
    many = "modules" if what == "module" else "batteries"
    least, most = voltage_of(power, "voltage")
    if in_series > 1:
        n_s = Figure.decided("n_s", in_series, "", "in series", "/pack/in_series")
        least = Figure.by("V_least", "V_low / n_s", "V", f"one {what}, at least", V_low=least, n_s=n_s)
        most = Figure.by("V_most", "V_max / n_s", "V", f"one {what}, at most", V_max=most, n_s=n_s)
    volts: tuple[Measure, ...] = (Measure("volts", "Voltage at its posts", "V", pack.v_nom, least, most, DISCHARGED),)
    if count > 1:
        lowest = Measure("lowest", f"Lowest {what}", "V", None, least, None, DISCHARGED)
        volts = lowest, Measure("highest", f"Highest {what}", "V", None, None, most, ("it was overcharged",))
    title = f"Look at the {count} {many}" if count > 1 else "Look at the battery"
    text = "No dents, no swelling, no smell, posts clean. Write its voltage down; wake it by its charger where it sleeps."
    plan.add(Act("pack:look", "pack", "look", title, text, ("/pack",), measures=volts, caution=f"{LIVE} {DAMAGED}"))
    if count > 1:
        cells = Figure.of("n", pack.series.number / in_series, "", f"cells in series in one {what}")
        causes = ("one was charged less", "one is of another age")
        label = f"Between the fullest and the emptiest {what}"
        spread = Measure("spread", label, "mV", None, None, apart(cells, many), causes)
        text = "Charge each to full by itself, let all rest for an hour, then measure. Join only what stands alike."
        title = f"Bring the {many} to one voltage"
        plan.add(Act("pack:even", "pack", "even", title, text, ("/pack",), measures=(spread,), caution=CHARGING))
        plan.after("pack:even", "pack:look", "what is damaged is not charged")
    text = "A cap on each post, taped; the caps come off one at a time, when a lug goes on."
    plan.add(Act("pack:cover", "pack", "cover", "Cap the posts", text, ("/pack",), caution=LIVE))
    plan.after("pack:cover", ("pack:even", "pack:look"), "measured while they can be reached")


def plan_cells(build: CellPack, pack: PackSizing, power: PowerSizing, plan: BuildPlan) -> None:
    """Loose cells up to a covered pack with its leads at a plug."""
    series, parallel = int(pack.series.number), int(pack.parallel.number)
    count, flat = series * parallel, build.cell.shape != "cylindrical"
    row = pack.chemistry
    least = row.figure("v_min", row.v_min, "V", f"least of a cell, {row.label}")
    most = row.figure("v_max", row.v_max, "V", f"greatest of a cell, {row.label}")
    lowest = Measure(
        "lowest", "Lowest cell", "V", None, least, None, ("kept empty: it goes to the collection point", "a short inside")
    )
    highest = Measure("highest", "Highest cell", "V", None, None, most, ("overcharged",))
    text = f"All {count}: no dents, rust, swelling or torn sleeve. Measure each."
    plan.add(
        Act(
            "pack:look",
            "pack",
            "look",
            f"Look at the {count} cells",
            text,
            ("/pack",),
            measures=(lowest, highest),
            caution=f"{LIVE} {DAMAGED}",
        )
    )
    most_apart = Figure.by("ΔV_most", "1000 · ΔV_c", "mV", "cells may be apart", ΔV_c=assumption("join_cell"))
    spread = Measure(
        "spread",
        "Between the highest and the lowest cell, rested an hour",
        "mV",
        None,
        None,
        most_apart,
        ("charge ran too short", "a cell discharges by itself"),
    )
    text = (
        f"Side by side, all plus to plus, on a supply at {write_quantity(row.v_max, 'V')} with a current limit, until no current flows; then an hour of rest."
        if flat
        else "Each charged to the same voltage on its charger; then an hour of rest."
    )
    plan.add(
        Act(
            "pack:even",
            "pack",
            "even",
            "Bring all cells to one voltage",
            text,
            ("/pack",),
            tools=("bench-supply",) if flat else (),
            measures=(spread,),
            caution=CHARGING,
        )
    )
    plan.after("pack:even", "pack:look", "what is damaged is not charged")
    placed = f"{series} groups of {parallel}" if parallel > 1 else f"{series} cells"
    text = f"{placed}, the polarity of each read aloud; " + (
        "a sheet between, end plates on, rods drawn up crosswise: firm, never to zero."
        if flat
        else "a ring on each positive end, each cell by its label in its place."
    )
    look = Measure("polarity", "Every polarity as drawn", causes=("a cell the wrong way round",))
    title = "Stack and press" if flat else "Put the cells in their holder"
    plan.add(Act("pack:stack", "pack", "stack" if flat else "sort", title, text, ("/pack",), measures=(look,), caution=LIVE))
    plan.after("pack:stack", "pack:even", "unequal cells must not be joined")
    links(build, pack, flat, plan)
    senses(build, pack, series, plan)
    text = "Covers over the links, tape over the ends of the leads, a cap on each post. It stays so until a lug goes on."
    title = "Cover links and posts"
    plan.add(Act("pack:cover", "pack", "cover", title, text, ("/pack",), caution=LIVE))
    plan.after("pack:cover", ("pack:links", "pack:sense-check"), "what is under the covers is measured first")


def links(build: CellPack, pack: PackSizing, flat: bool, plan: BuildPlan) -> None:
    """The links from group to group, and the collectors."""
    link = pack.build.link
    if link is None or int(pack.series.number) * int(pack.parallel.number) < 2:
        return
    most = Figure.by(
        "U_most",
        "1000 · k_like · I_t · R_l",
        "mV",
        "over a link at the test current",
        k_like=assumption("worse_than_like"),
        I_t=assumption("joint_test"),
        R_l=link.resistance,
    )
    usual = Figure.by(
        "U", "1000 · I_t · R_l", "mV", "over a link at the test current", I_t=assumption("joint_test"), R_l=link.resistance
    )
    drop = Measure(
        "worst",
        "Worst link, cell to cell, at 20 A",
        "mV",
        usual,
        None,
        most,
        ("a nut not at its torque", "an oxidised face", "a strip that is plated steel"),
    )
    text = f"{link.choice.text}; " + (
        "faces brushed bright, put on at once, each nut to its torque and marked."
        if flat
        else "welded, tried with a hook at every tenth."
    )
    plan.add(
        Act(
            "pack:links",
            "pack",
            "links" if flat else "weld",
            "Fit the links",
            text,
            ("/pack/link",),
            tools=("torque-key", "joint-supply") if flat else ("spot-welder", "joint-supply"),
            measures=(drop,),
            caution=LIVE,
        )
    )
    plan.after("pack:links", "pack:stack", "the links hold to what stands")


def senses(build: CellPack, pack: PackSizing, series: int, plan: BuildPlan) -> None:
    """The sense leads at the cells, and their voltages at the plug."""
    board = pack.build.board
    if board is None or board.sense is None:
        return
    fused = " each with its fuse within a hand's breadth of the cell," if build.board.sense_fused else ""
    text = f"{series + 1} leads from the negative end up,{fused} in order into the plug. The plug stays out of the board."
    plan.add(
        Act("wire:lead:sense", "pack", "sense", "Fix the sense leads", text, ("/pack/board",), ("lead:sense",), caution=LIVE)
    )
    plan.after("wire:lead:sense", ("pack:links", "pack:stack"), "they are fixed to the links")
    row, low, high = pack.chemistry, "lowest", "highest"
    least = row.figure("v_min", row.v_min, "V", f"least of a cell, {row.label}")
    most = row.figure("v_max", row.v_max, "V", f"greatest of a cell, {row.label}")
    wrong = ("two leads changed places", "a lead not through", "a fuse of a lead blown")
    groups_apart = Figure.by("ΔV_most", "1000 · ΔV_g", "mV", "groups may be apart", ΔV_g=assumption("group_spread"))
    steps = (
        Measure(low, "Lowest step from pin to pin", "V", None, least, None, wrong),
        Measure(high, "Highest step from pin to pin", "V", None, None, most, wrong),
        Measure(
            "spread",
            "Between the highest and the lowest",
            "mV",
            None,
            None,
            groups_apart,
            ("a group low in charge", "a weak cell in that group", *wrong[:1]),
        ),
    )
    text = f"Meter on pin 0 and 1, then 1 and 2, up to {series}: each step one cell, none negative, none double."
    plan.add(
        Act(
            "pack:sense-check",
            "pack",
            "check",
            "Measure at the plug, pin by pin",
            text,
            ("/pack/board",),
            measures=steps,
            caution=LIVE,
        )
    )
    plan.after("pack:sense-check", "wire:lead:sense", "a wrong pin destroys the board", telling=True)
