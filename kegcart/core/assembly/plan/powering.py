"""From dead checks to live sockets: nothing live before it was proved dead, each slot measured before its fuse goes in, one fuse at a time."""

from itertools import pairwise

from kegcart.core.assembly.document import Assembly
from kegcart.core.assembly.parts_list import precharge_energy
from kegcart.core.assembly.plan.acts import Act, BuildPlan, Measure
from kegcart.core.assembly.plan.fitting import Hidden
from kegcart.core.assembly.plan.pack_work import LIVE, TORQUED
from kegcart.core.assembly.plan.strings import plan_strings
from kegcart.core.assembly.plan.wiring import Wiring
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.brief.document import OUTLET_VOLTAGE
from kegcart.core.figure import Figure
from kegcart.core.loads.supplies import Supply
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Inverter, Outlet, Selector, Switch
from kegcart.core.power.kinds.inverter import has_rcd
from kegcart.core.power.path.flow import regulated_voltage
from kegcart.core.power.path.parts import PartSizing, PowerSizing, Source
from kegcart.core.reference import assumption, families

NO_VOLTAGE = ("a fuse before it is missing or blown", "a switch before it is off", "a crimp that does not hold")
REVERSED = ("its wires changed places",)
ALIVE = "From here on the wiring is live: one hand, insulated tools, nobody near who does not know."
AC = "AC at any power can kill. Local codes and licensed practice come first."


def plan_power(
    power: PowerSizing, made: list[Wiring], decided: Assembly, box: BoxSizing | None, hidden: list[Hidden], plan: BuildPlan
) -> None:
    """All acts from the dead checks to the AC sockets."""
    dead_checks(power, box, plan)
    for source in power.sources.values():
        close_posts(source, power, made, decided, hidden, plan)
    plan_strings(power, made, decided, hidden, plan)
    meter_lead(power, made, plan)
    plug_senses(power, plan)
    switches(power, plan)
    fuses(power, plan)
    precharges(power, plan)
    one_at_a_time(power, plan)
    for key, part in power.parts.items():
        if isinstance(part.node, Inverter):
            prove_ac(part, part.node, power, plan)
        elif part.node.part == "fuse_block":
            cover_block(key, part, power, plan)


def dead_checks(power: PowerSizing, box: BoxSizing | None, plan: BuildPlan) -> None:
    """What is measured while nothing is connected: continuity and polarity by resistance, no short, insulation."""
    if not power.parts:
        return
    work = [*plan.of("wire:"), *plan.of("join:"), *plan.of("cover:"), *plan.of("fit:")]
    text = "Each lug, each mark of the torque key, each label. Every fuse slot is empty, every breaker and switch off."
    look = Measure("right", "Nothing loose, every slot empty", causes=("a joint forgotten",))
    plan.add(Act("dead:look", "dead", "look", "Go over every joint", text, ("/power",), measures=(look,)))
    plan.after("dead:look", work, "what is not built yet cannot be gone over")
    text = "From the positive lug for the post to each slot, from each slot to its socket, from each socket's minus to the negative bar: through, and to the right contact."
    through = Measure(
        "through",
        "Highest resistance of a way",
        "ohm",
        None,
        None,
        assumption("through_most"),
        ("a crimp that does not hold", "a wrong contact"),
    )
    right = Measure("polarity", "Every socket's plus on its plus", causes=REVERSED)
    plan.add(
        Act(
            "dead:through",
            "dead",
            "check",
            "Continuity and polarity by resistance",
            text,
            ("/power",),
            tools=("multimeter",),
            measures=(through, right),
        )
    )
    plan.after("dead:through", "dead:look", "what is loose gives a wrong reading")
    text = "Between the positive and the negative bar; let the reading settle, capacitors charge through the meter."
    short = Measure(
        "short",
        "Between plus and minus",
        "kΩ",
        None,
        assumption("short_least"),
        None,
        ("a bare strand across two contacts", "a device the wrong way round", "capacitors that still charge"),
    )
    plan.add(
        Act(
            "dead:short",
            "dead",
            "check",
            "No short between the poles",
            text,
            ("/power",),
            tools=("multimeter",),
            measures=(short,),
        )
    )
    plan.after("dead:short", "dead:through", "a wire on the wrong bar is found first")
    metal = box is not None and box.layout.case.material in ("steel", "aluminium")
    if power.inverters or metal:
        text = "At 250 V from both bars to the box and to earth contacts, boards, meters and electronics unplugged; discharged after."
        ohm = Measure(
            "insulation",
            "To the box",
            "MΩ",
            None,
            assumption("insulation_least"),
            None,
            ("a chafed wire", "damp", "a device left plugged"),
        )
        plan.add(
            Act(
                "dead:insulation",
                "dead",
                "check",
                "Insulation to the box",
                text,
                ("/power",),
                tools=("insulation-tester",),
                measures=(ohm,),
                caution="The tester itself bites: hands off while it tests.",
            )
        )
        plan.after("dead:insulation", "dead:short", "a short is found more gently with the meter")


def close_posts(
    source: Source, power: PowerSizing, made: list[Wiring], decided: Assembly, hidden: list[Hidden], plan: BuildPlan
) -> None:
    """Both poles of a battery, in the order of the builder's school; the other pole stays capped."""
    at, key = source.pointer, source.key
    ends = {"positive": list[Wiring](), "negative": list[Wiring]()}
    for wiring in made:
        if at in wiring.posts and not wiring.of_string:
            ends["negative" if wiring.pieces[0].pole == "negative" else "positive"].append(wiring)
    poles = [pole for pole in (decided.pole_first, *(p for p in ends if p != decided.pole_first)) if ends[pole]]
    fit = "fit:pack" if key == PACK else f"fit:bank:{key}"
    acts = []
    for n, pole in enumerate(poles):
        joined = sorted(ends[pole], key=lambda w: -w.area)
        names = ", then ".join(dict.fromkeys(f"the {write_lead(w)}" for w in joined))
        act = f"post:{key}:{pole}"
        other = poles[1 - n] if len(poles) > 1 else ""
        text = f"Cap off, {names} on, to its torque, cap or boot on again." + (
            f" The {other} pole stays capped." if other and n == 0 else ""
        )
        if n == 0 and decided.pole_first == "negative" and power.ctx.path.chassis_bond:
            text += " The chassis is on the negative: from now on a tool from plus to the box is a short."
        pieces = tuple(p.key for w in joined for p in w.pieces)
        last = n == len(poles) - 1
        volts = (
            (
                Measure(
                    "volts",
                    "At the empty first slot, to minus",
                    "V",
                    source.v_nom,
                    source.v_low,
                    source.v_max,
                    (*NO_VOLTAGE, *REVERSED),
                ),
            )
            if last
            else ()
        )
        title = f"Join the {pole} post" + (f" of {source.name}" if key != PACK else "")
        plan.add(
            Act(act, "power", "join", title, text, (at,), pieces, ("insulated-spanners", "torque-key"), (TORQUED, *volts), LIVE)
        )
        plan.after(act, [w.act if w.loose else w.late or w.act for w in joined], "the cables are made and their far ends are on")
        for wiring in joined:
            if wiring.loose:
                plan.after(wiring.late, act, "its post is under what its far end stands on", telling=True)
        plan.after(act, fit, "the pack stands and is held" if key == PACK else "it stands and is held")
        acts.append(act)
    for one, two in pairwise(acts):
        plan.after(
            two,
            one,
            f"{decided.pole_first} first in this build: one school is kept to, so that nobody has to remember",
            telling=True,
        )
    covering = [h.by for h in hidden if h.what == fit]
    for act in acts:
        if covering:
            for by in covering:
                if by not in plan.earlier(act):
                    plan.after(by, act, "the posts are under it", telling=True)
        else:
            plan.after(act, plan.of("dead:"), "proved dead before it can be live")
        if key == PACK:
            plan.after(act, "pack:sense-check", "the plug of the board was measured")
            if not any(by == "fit:board" or by in plan.earlier("fit:board") for by in covering):
                plan.after(act, "fit:board", "the board stands")


def meter_lead(power: PowerSizing, made: list[Wiring], plan: BuildPlan) -> None:
    """The meter's supply lead is live after its minus is on: by its fuse, which stays out until then, else by its post."""
    wiring, meter = next((w for w in made if w.act == "wire:lead:meter"), None), power.ctx.meter
    if wiring is None or meter is None:
        return
    joined = wiring.late if wiring.loose else f"post:{PACK}:positive"
    if meter.fuse is not None:
        least, most = power.sources[PACK].v_low, power.sources[PACK].v_max
        shows = Measure(
            "volts", "The meter shows", "V", power.sources[PACK].v_nom, least, most, (*REVERSED, "its minus is not on")
        )
        text = f"{meter.fuse.text} {meter.family.label} into the holder of the lead at the post."
        plan.add(Act("meter:on", "power", "fuse", "Fuse in: meter", text, ("/power/shunt",), measures=(shows,), caution=LIVE))
        plan.after(
            "meter:on", [joined, f"post:{PACK}:positive", f"post:{PACK}:negative", *plan.of("dead:")], "both posts are joined"
        )
        joined = "meter:on"
    why = "the negative of the shunt's side is on before the positive of the meter's supply lead"
    plan.after(joined, "wire:lead:meter:return", why, telling=True)


def write_lead(wiring: Wiring) -> str:
    """A lead to a post, as a sentence names it."""
    piece = wiring.pieces[0]
    far = next((end.name for end in piece.ends if end.at not in wiring.posts), piece.ends[-1].name)
    return f"{piece.colour} {piece.gauge} to {far}"


def plug_senses(power: PowerSizing, plan: BuildPlan) -> None:
    """The sense plug goes into the board last of all its leads."""
    if "wire:lead:sense" not in plan.acts:
        return
    text = "Main leads of the board on, then the plug straight in, in one go."
    awake = Measure(
        "awake", "The board wakes, and shows every group", causes=("a pin out of order", "it waits for the charger to wake it")
    )
    plan.add(
        Act(
            "sense:plug",
            "power",
            "connect",
            "Plug the sense leads into the board",
            text,
            ("/pack/board",),
            measures=(awake,),
            caution="A wrong pin destroys the board.",
        )
    )
    leads = [*plan.of("wire:lead:negative"), *plan.of("join:lead:negative"), f"post:{PACK}:negative"]
    plan.after("sense:plug", leads, "the board's main leads are on before its sense leads", telling=True)
    plan.after("sense:plug", ("pack:sense-check", "fit:board", *plan.of("dead:")), "its plug was measured pin by pin")


def upstream_on(key: str, power: PowerSizing) -> list[str]:
    """What must be in or on before a part is live: the nearest fuse before it with the switches between, else both posts; AC breakers too."""
    out: list[str] = []
    for before in power.network.upstream(key):
        if power.network.role(before) == "protects":
            return [*out, f"fuse:{before}"]
        if isinstance(power.parts[before].node, Switch | Selector):
            out.append(f"on:{before}")
    source = power.network.source(key)
    return [*out, f"post:{source}:positive", f"post:{source}:negative"]


def switches(power: PowerSizing, plan: BuildPlan) -> None:
    """Each switch and selector is closed once what feeds it is live."""
    for key, part in power.parts.items():
        if isinstance(part.node, Switch | Selector):
            verb = "Set" if isinstance(part.node, Selector) else "Close"
            text = "By hand, and open again once: it must open under one's hand, without looking."
            plan.add(Act(f"on:{key}", "power", "fuse", f"{verb} {part.node.name}", text, (part.pointer,), caution=ALIVE))


def fuses(power: PowerSizing, plan: BuildPlan) -> None:
    """The polarity and voltage at each empty slot, then its fuse."""
    for key, part in power.parts.items():
        if power.network.role(key) != "protects" or part.rating is None or part.family is None:
            continue
        breaker = families()[part.family.key].kind == "breaker"
        least, most, usual = slot_volts(part, power)
        volts = Measure("volts", "From the feeding side of the slot to minus", "V", usual, least, most, (*NO_VOLTAGE, *REVERSED))
        slot = "breaker, still off" if breaker else "empty slot"
        live = Act(
            f"live:{key}",
            "power",
            "check",
            f"Measure at the {slot}: {part.node.name}",
            "Red probe on the feeding side, black on the negative bar: the sign must be plus.",
            (part.pointer,),
            (),
            ("multimeter",),
            (volts,),
            LIVE,
        )
        plan.add(live)
        what = f"{part.rating.text} {part.family.text}"
        title = f"Close {part.node.name}" if breaker else f"Fuse in: {part.node.name}"
        text = f"{what}: {'closed in one go' if breaker else 'read what is printed on it, then push or screw it home'}. Nothing warms, nothing smells."
        plan.add(
            Act(
                f"fuse:{key}", "power", "fuse", title, text, (part.pointer,), caution=ALIVE if power.network.is_first(key) else ""
            )
        )
        plan.after(f"fuse:{key}", f"live:{key}", "no fuse before its slot was measured", telling=True)
        plan.after(f"fuse:{key}", plan.of("dead:"), "proved dead before it is live")
        if part.source.key == PACK:
            plan.after(f"fuse:{key}", "sense:plug", "the board watches before current can flow")
    for key in power.parts:
        if f"live:{key}" in plan.acts:
            plan.after(f"live:{key}", upstream_on(key, power), "the slot is fed")
            plan.after(f"live:{key}", plan.of("dead:"), "proved dead before it is live")


def slot_volts(part: PartSizing, power: PowerSizing) -> tuple[Figure, Figure, Figure]:
    """The least, the greatest and the usual voltage at what feeds a part, V."""
    if power.network.stands_on[part.key] == "dc_12v":
        usual = regulated_voltage()
        band = {"U": usual, "k": assumption("regulated_band")}
        return (
            Figure.by("U_least", "U · (1 − k)", "V", "regulated, at least", band),
            Figure.by("U_most", "U · (1 + k)", "V", "regulated, at most", band),
            usual,
        )
    return part.source.v_low, part.source.v_max, part.source.v_nom


def precharges(power: PowerSizing, plan: BuildPlan) -> None:
    """The capacitors of a large inverter are charged through a resistor before what closes its way last."""
    for key, part in power.parts.items():
        ohm = power.ctx.sheet.get(f"power/{key}/precharge")
        if ohm is None:
            continue
        energy = precharge_energy(ohm, part.source.v_max)
        guard = next((k for k in power.network.upstream(key) if power.network.role(k) == "protects"), None)
        between = [f"on:{k}" for k in power.network.upstream(key) if f"on:{k}" in plan.acts]
        slot = power.parts[guard].node.name if guard else "the positive post"
        nine = Figure.by("U_pre", "k · V_low", "V", "charged", k=assumption("precharged"), V_low=part.source.v_low)
        volts = Measure(
            "volts",
            f"At {part.node.name}'s terminals, after {energy['wait'].text}",
            "V",
            part.source.v_nom,
            nine,
            part.source.v_max,
            ("the resistor did not touch", "the inverter is on and draws: switch it off", "a switch before it is off"),
        )
        text = f"{part.node.name} off. Hold {ohm.text}, {energy['rating'].text}, over the empty slot of {slot} for {energy['wait'].text} at least; {energy['first'].text} flow at first. Then the fuse at once."
        act = f"precharge:{key}"
        plan.add(
            Act(
                act,
                "power",
                "precharge",
                f"Pre-charge {part.node.name}",
                text,
                (part.pointer,),
                tools=("multimeter",),
                measures=(volts,),
                caution="The resistor gets hot; capacitors stay charged.",
            )
        )
        if guard is not None:
            inside = [k for k in between if k[3:] in set(power.network.below(guard))]
            plan.after(act, inside, "the way to the capacitors is closed")
            plan.after(act, f"live:{guard}", "the slot is live and of the right sign")
            plan.after(act, "sense:plug", "the board lets nothing through until it wakes")
            plan.after(f"fuse:{guard}", act, "without it the capacitors weld what closes on them", telling=True)
        else:
            plan.after(act, [*between, f"post:{part.source.key}:negative"], "the way to the capacitors is closed")
    for key in power.parts:
        if f"on:{key}" in plan.acts:
            closes_before = any(f"on:{key}" in plan.acts[act].needs for act in plan.of("precharge:"))
            if not closes_before:
                plan.after(f"on:{key}", upstream_on(key, power), "it is fed")
            plan.after(f"on:{key}", plan.of("dead:"), "proved dead before it can be live")


def one_at_a_time(power: PowerSizing, plan: BuildPlan) -> None:
    """Outlets are measured behind their fuse before the next fuse goes in."""
    previous: list[str] = []
    for key in power.network.order:
        part = power.parts[key]
        if f"fuse:{key}" in plan.acts:
            for before in previous:
                if before not in plan.earlier(f"live:{key}") and f"live:{key}" not in plan.earlier(before):
                    plan.after(f"live:{key}", before, "branch fuses one at a time: what is wrong shows at one place")
            previous = [f"fuse:{key}"]
        if isinstance(part.node, Outlet) and power.network.stands_on[key] != "ac":
            prove_outlet(key, part, part.node, power, plan)
            previous.append(f"out:{key}")


def prove_outlet(key: str, part: PartSizing, node: Outlet, power: PowerSizing, plan: BuildPlan) -> None:
    """The voltage without load at an outlet, of the right sign."""
    least, most, usual = outlet_volts(power.network.supply(key), part, power)
    each = f"each of its {node.ways} sockets" if node.ways > 1 else "its socket"
    volts = Measure("volts", f"At {each}, without load", "V", usual, least, most, (*REVERSED, *NO_VOLTAGE))
    text = "Red probe on plus: a minus sign on the meter is a reversed socket."
    plan.add(
        Act(
            f"out:{key}",
            "power",
            "check",
            f"Measure {node.name}",
            text,
            (part.pointer,),
            tools=("multimeter",),
            measures=(volts,),
        )
    )
    plan.after(f"out:{key}", upstream_on(key, power), "its fuse is in")


def outlet_volts(supply: Supply, part: PartSizing, power: PowerSizing) -> tuple[Figure, Figure, Figure | None]:
    """What an outlet without load may give: least, most, usual, V."""
    if supply == "usb":
        return assumption("usb_least"), assumption("usb_most"), None
    return slot_volts(part, power)


def prove_ac(part: PartSizing, node: Inverter, power: PowerSizing, plan: BuildPlan) -> None:
    """The AC side: bond, polarity and voltage of each outlet, residual-current trip, and only then a load."""
    key = part.key
    outlets = [k for k in power.network.below(key) if isinstance(power.parts[k].node, Outlet)]
    if not outlets:
        return
    text = (
        "Read the inverter's manual: bonded, floating, or as it says; once, and never with a second source. Local code decides."
    )
    bond = Measure("bond", "The bond is as the manual and local code want it", causes=("not looked up",))
    plan.add(
        Act(
            f"ac:bond:{key}",
            "ac",
            "check",
            f"Settle the bond of {node.name}",
            text,
            (part.pointer,),
            measures=(bond,),
            caution=AC,
        )
    )
    plan.after(f"ac:bond:{key}", upstream_on(key, power), "it is fed")
    plan.after(f"ac:bond:{key}", [f"out:{k}" for k in power.network.order if f"out:{k}" in plan.acts], "DC is right first")
    before = f"ac:bond:{key}"
    for outlet in outlets:
        out = power.parts[outlet]
        nominal = Figure.decided("U", OUTLET_VOLTAGE[power.ctx.brief.mains], "V", "mains voltage", "/brief/mains")
        if power.ctx.wired.legs.get(outlet) == "both":
            nominal = Figure.by("U_both", "2 · U", "V", "between both legs", U=nominal)
        band = {"U": nominal, "k": assumption("mains_band")}
        least, most = (
            Figure.by("U_least", "U · (1 − k)", "V", "at least", band),
            Figure.by("U_most", "U · (1 + k)", "V", "at most", band),
        )
        volts = Measure(
            "volts",
            "Line to neutral, without load",
            "V",
            nominal,
            least,
            most,
            ("the inverter is off or in its search mode", "another mains voltage is set", "a wire off"),
        )
        right = Measure(
            "polarity",
            "Line, neutral and earth on the right contacts",
            causes=("line and neutral changed places", "earth not through"),
        )
        text = "Inverter on, socket tester in each socket; then the voltage."
        act = f"ac:out:{outlet}"
        plan.add(
            Act(
                act,
                "ac",
                "check",
                f"Prove {out.node.name}",
                text,
                (out.pointer,),
                tools=("socket-tester", "multimeter"),
                measures=(right, volts),
                caution=AC,
            )
        )
        plan.after(
            act,
            before,
            "how it is bonded decides what the tester must show"
            if before.startswith("ac:bond")
            else "one socket after the other",
        )
        before = act
    if has_rcd(node, power.ctx.brief):
        trip = Measure(
            "trip",
            "It trips in",
            "ms",
            None,
            None,
            assumption("trip_most"),
            ("the output floats: nothing can flow to earth", "it is not made for this inverter"),
        )
        text = "By the tester at 30 mA, at a socket behind it; then by its own button."
        plan.add(
            Act(
                f"ac:trip:{key}",
                "ac",
                "check",
                "Trip the residual-current protection",
                text,
                (part.pointer,),
                tools=("socket-tester",),
                measures=(trip,),
                caution=AC,
            )
        )
        plan.after(f"ac:trip:{key}", before, "earth must be through for it to trip")
        before = f"ac:trip:{key}"
    text = "Something small first, a lamp; then look and smell. The load test is at the bench."
    plan.add(Act(f"ac:load:{key}", "ac", "check", f"First load on {node.name}", text, (part.pointer,), caution=AC))
    plan.after(f"ac:load:{key}", before, "no AC load before its socket is proved", telling=True)


def cover_block(key: str, part: PartSizing, power: PowerSizing, plan: BuildPlan) -> None:
    """The cover of a fuse block goes on once its slots were measured and filled."""
    act = f"cover:part:{key}"
    text = "The cover on, with the list of its circuits under it."
    plan.add(Act(act, "power", "cover", f"Cover {part.node.name}", text, (part.pointer,)))
    behind = [f"fuse:{k}" for k in power.network.children[key] if f"fuse:{k}" in plan.acts]
    plan.after(act, [*behind, f"fit:part:{key}"], "its slots were measured and filled")
