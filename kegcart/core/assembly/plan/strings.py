"""Strings of a bank: its batteries in series, then string by string onto the bank, the difference measured before each is closed."""

from itertools import pairwise

from kegcart.core.assembly.cutting import LINKS
from kegcart.core.assembly.document import Assembly
from kegcart.core.assembly.plan.acts import Act, BuildPlan, Measure
from kegcart.core.assembly.plan.fitting import Hidden
from kegcart.core.assembly.plan.pack_work import DISCHARGED, LIVE, TORQUED, apart
from kegcart.core.assembly.plan.wiring import Wiring
from kegcart.core.figure import Figure
from kegcart.core.pack.build import StringsSizing
from kegcart.core.pack.document import Bank, StringOfUnits
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK
from kegcart.core.power.path.parts import PowerSizing

UNLIKE = "Two strings that stand apart drive a current through each other that only their resistance limits."
ONE_AWRY = ("a battery the wrong way round", *DISCHARGED[:2])


def plan_strings(power: PowerSizing, made: list[Wiring], decided: Assembly, hidden: list[Hidden], plan: BuildPlan) -> None:
    """The acts that make one battery of many, before any lead of the box goes on its posts."""
    pack = power.ctx.pack
    strings = pack.build.strings
    if strings is None or not isinstance(pack.pack, Bank):
        return
    count, bank, acts = len(strings.leads), pack.pack, []
    for n in range(1, count + 1):
        if bank.in_series > 1:
            acts.append(in_series(n, count, bank.in_series, power, made, plan))
        if count > 1:
            acts.append(join_string(n, bank, strings, pack, power, decided, plan))
    wires = [wiring.act for wiring in made if wiring.of_string]
    covering = [thing.by for thing in hidden if thing.what == "fit:pack"]
    for act in acts:
        if wires:
            plan.after(act, wires, "the leads of all strings are made")
        plan.after(act, "fit:pack", "the batteries stand and are held")
        for by in covering:
            if by not in plan.earlier(act):
                plan.after(by, act, "the posts are under it", telling=True)
        if not covering:
            plan.after(act, plan.of("dead:"), "all else is proved dead before a post is bare")
        for post in plan.of(f"post:{PACK}:"):
            plan.after(post, act, "the bank is whole before anything hangs on it")
    for one, two in pairwise(acts):
        plan.after(two, one, "one string after the other: only one has bare posts at a time", telling=True)


def in_series(n: int, count: int, units: int, power: PowerSizing, made: list[Wiring], plan: BuildPlan) -> str:
    """The links within one string."""
    source, key = power.sources[PACK], f"series:{n}"
    name = f"string {n}" if count > 1 else "the bank"
    ends = Measure("volts", f"From end to end of {name}", "V", source.v_nom, source.v_low, source.v_max, ONE_AWRY)
    what = "a link" if units == 2 else f"{units - 1} links"
    text = (
        f"{what.capitalize()} from plus to the next one's minus; only the two posts in hand are bare. The outer two stay capped."
    )
    title = f"Join the {units} of {name} in series"
    tools = ("insulated-spanners", "torque-key")
    place = (f"/pack/strings/s{n}",) if count > 1 else ("/pack",)
    pieces = tuple(p.key for wiring in made for p in wiring.pieces if p.key == f"{LINKS}{n}")
    plan.add(Act(key, "power", "join", title, text, place, pieces, tools, (TORQUED, ends), LIVE, first=(float(n),)))
    return key


def join_string(
    n: int, bank: Bank, strings: StringsSizing, pack: PackSizing, power: PowerSizing, decided: Assembly, plan: BuildPlan
) -> str:
    """One string onto the bank: its leads on with its way open, the difference over the gap, then closed."""
    own = bank.strings.get(f"s{n}", StringOfUnits())
    fuse = strings.fuse if own.protected else None
    lead = strings.leads[n - 1].wire.key
    first, second = ("black", "red") if decided.pole_first == "negative" else ("red", "black")
    gap = "its fuse still out" if fuse else "its end for the bank last, and capped until measured"
    linked = "Both links to the string before it, then t" if strings.link is not None and n > 1 else "T"
    text = f"{linked}he {first} {lead} on, then the {second} one; of the red one, {gap}."
    source, most = power.sources[PACK], apart(pack.series, "strings")
    if n == 1:
        over = Measure("volts", "String 1, plus to minus", "V", source.v_nom, source.v_low, source.v_max, ONE_AWRY)
        closing = f" Then its {fuse.text} fuse in." if fuse else " Then the red end on."
    else:
        least = Figure.by("ΔV_least", "0 − ΔV_most", "mV", "strings may be apart, the other way", ΔV_most=most)
        where = "Over its empty fuse holder" if fuse else "From its red end to the bank's plus"
        over = Measure("apart", where, "mV", None, least, most, ("it was not brought to the same voltage", *ONE_AWRY))
        closing = f" Alike: its {fuse.text} fuse in." if fuse else " Alike: the red end on."
    pieces = [f"lead:string:{n}", f"lead:string:{n}:return"]
    pieces += [f"lead:link:{n - 1}", f"lead:link:{n - 1}:return"] if strings.link is not None and n > 1 else []
    tools, place, caution = ("insulated-spanners", "torque-key"), (f"/pack/strings/s{n}",), f"{LIVE} {UNLIKE}"
    act = Act(
        f"string:{n}", "power", "join", f"String {n} onto the bank", text + closing, place, tuple(pieces), tools, (over, TORQUED)
    )
    act.caution, act.first = caution, (float(n),)
    plan.add(act)
    return act.key
