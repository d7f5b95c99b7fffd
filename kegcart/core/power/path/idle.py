"""Idle drain: what each part draws with every load off, and how long the station lasts on the shelf."""

from collections.abc import Iterator

from kegcart.core.choice import assumed
from kegcart.core.figure import Figure
from kegcart.core.measured import as_measured
from kegcart.core.pack.forms import form_of
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Switch, kind_of
from kegcart.core.power.path.parts import Idle, PathContext
from kegcart.core.reference import assumption

MONTH_H = 30.4 * 24


def find_idle(ctx: PathContext) -> list[Idle]:
    """What each part on the pack draws with all loads off: board, meter, then the parts of the path."""
    out: list[Idle] = []
    for place, name, watts, switched, within in (*own_of_pack(ctx), *own_of_meter(ctx), *parts_as_measured(ctx)):
        out.append(Idle(place, name, ctx.sheet.put(f"power/idle/{len(out) + 1}", watts), switched, within))
    return out


Draw = tuple[str, str, Figure, bool, bool]
"""Where it is decided, what it is called, its draw in W, whether the main switch cuts it off, whether its current has it."""


def own_of_pack(ctx: PathContext) -> Iterator[Draw]:
    """The protection board, or the boards inside finished batteries.

    Source: own draw by the maker's sheet, or typical (assumptions table).
    """
    pack = ctx.pack
    drawn = form_of(pack.pack).board_draw(pack)
    if drawn is None:
        return
    place, name, amps, boards = drawn
    parts = {"n": boards, "I": amps, "V_nom": pack.v_nom}
    yield place, name, Figure.by("P", "n · I · V_nom", "W", "own draw of the protection", parts), False, False


def own_of_meter(ctx: PathContext) -> Iterator[Draw]:
    """The meter at the shunt.

    Source: own draw by the maker's sheet, or typical (assumptions table).
    """
    shunt = ctx.path.shunt
    if shunt is None or ctx.shunt is None:
        return
    own = None if shunt.own_draw_ma is None else shunt.own_draw_ma / 1000
    kind = "meter_asleep" if ctx.meter_sleeps else "meter_draw"
    amps = assumed("I_m", own, kind, "A", "draw of the meter", "/power/shunt/own_draw_ma")
    watts = Figure.by("P", "I · V_nom", "W", "draw of the meter", I=amps, V_nom=ctx.pack.v_nom)
    yield "/power/shunt", "Meter", watts, False, False


def parts_as_measured(ctx: PathContext) -> Iterator[Draw]:
    """The parts of the path, by what was measured of them together while everything was off: each as much above what its sheet says.

    Source: practice: a meter at the posts does not tell them apart; an inverter is switched off then.
    """
    if "standing" not in ctx.measured:
        yield from own_of_parts(ctx)
        return
    draws = list(own_of_parts(ctx))
    while_off = {f"{name} ({place})": watts for place, name, watts, _, _ in draws if place.rsplit("/", 1)[1] not in ctx.inverters}
    if not while_off:
        yield from draws
        return
    assumed = Figure.by("P_off", "sum", "W", "drawn at the posts with everything off", while_off)
    found = as_measured(assumed, ctx.measured, "standing")
    for place, name, watts, switched, within in draws:
        if found is not assumed and f"{name} ({place})" in while_off:
            watts = Figure.by("P", "P_0 · P_2 / P_1", "W", watts.label, P_0=watts, P_2=found, P_1=assumed)
        yield place, name, watts, switched, within


def own_of_parts(ctx: PathContext) -> Iterator[Draw]:
    """Converters, inverters left on, relays, USB modules: whatever a kind says of itself."""
    network = ctx.network
    for key in network.order:
        node = network.nodes[key]
        drawn = kind_of(node).idle(node, key, ctx)
        if drawn is None or network.source(key) != PACK:
            continue
        behind_switch = any(isinstance(network.nodes[up], Switch) for up in network.upstream(key))
        yield (
            f"/power/network/{key}",
            node.name,
            drawn.watts,
            drawn.own_switch or behind_switch,
            kind_of(node).makes(node, key, ctx) is not None,
        )


def shelf_time(idle: list[Idle], ctx: PathContext, available: Figure) -> Figure:
    """Days until the station is empty on the shelf, its main switch open; as figures with the switch closed too.

    Source: energy over power; self-discharge as a share a month (assumptions table).
    """
    sheet, nominal = ctx.sheet, ctx.sheet["pack/nominal"]
    rate = assumption("self_discharge")
    own = Figure.of(
        "P_sd",
        nominal.number * rate.number / MONTH_H,
        "W",
        "self-discharge",
        how="so much of the nominal energy in a month of 30.4 days",
        inputs={"E_nom": nominal, "s_d": rate},
    )

    def days(parts: list[Idle], symbol: str, label: str, path: str) -> Figure:
        inputs = {f"{i.name} ({n})": i.watts for n, i in enumerate(parts, 1)}
        drain = Figure.by("P_idle", "sum", "W", f"idle drain, {label}", {**inputs, "self-discharge": own})
        sheet.put(f"{path}_watts", drain)
        said, split = f"days on the shelf, {label}", {"E_avail": available, "P_idle": drain}
        if drain.number <= 0:
            return sheet.put(path, Figure.of(symbol, 9999.0, "days", said, how="nothing draws from it", inputs=split))
        return sheet.put(path, Figure.by(symbol, "E_avail / (24 · P_idle)", "days", said, split))

    days(idle, "t_on", "main switch closed", "power/shelf_on")
    return days([i for i in idle if not i.switched], "t_off", "main switch open", "power/shelf_off")
