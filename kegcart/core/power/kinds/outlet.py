"""Outlets: sockets on the outside, their connector, and the circuit of those behind an inverter."""

from collections.abc import Iterator, Sequence
from functools import cache
from typing import TYPE_CHECKING, Annotated, Literal, assert_never

from pydantic import BeforeValidator, Field

from kegcart.core.choice import assumed, sized
from kegcart.core.document import FieldWords, Said, Words, choices
from kegcart.core.drawing import Box, Line, Primitive, arc
from kegcart.core.figure import Figure
from kegcart.core.loads.sizing import Demand, greatest_apparent, greatest_running, running_by_step
from kegcart.core.loads.supplies import Supply, conversion, efficiency
from kegcart.core.power.fed import ConnectorKey, Fed, Negative, Pins
from kegcart.core.power.kinds.ac_circuit import (
    breaker_before,
    breakers,
    circuit_current,
    inverter_current,
    mains_voltage,
    size_ac_cable,
    size_breaker,
)
from kegcart.core.power.kinds.base import (
    LINE,
    RUNNING,
    Choice,
    Cutoff,
    Device,
    Facts,
        IdleDraw,
    Kind,
    Label,
    PartType,
    connector_rating,
    connector_share,
    form_voltage,
    size_voltage,
)  # fmt: skip
from kegcart.core.power.path.flow import REGULATED_V, Flow, of_loads, regulated_voltage
from kegcart.core.power.path.legs import outlet_voltage
from kegcart.core.reference import Connector, connectors
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Current, Id, Power, Voltage, reader

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source

RUNNING_POWER = "greatest running power"


class Outlet(Fed):
    """One or more like sockets on the outside. `ways` share the circuit."""

    part: Literal["outlet"]
    connector: ConnectorKey | None = None
    usb: bool = Field(False, description="a USB module fed at pack voltage")
    ways: Annotated[int, Field(ge=1, le=12), BeforeValidator(reader(""))] = 1
    pins: Pins = "shrouded"
    breaker_a: Current | None = Field(None, description="breaker of an AC outlet; null: chosen where a cable leads to it")
    own_draw_w: Power | None = Field(None, description="no-load draw of a USB module, each of its ports; null: typical")
    leg: (
        Annotated[Literal["1", "2", "both"], Said((("1", "leg 1, 120 V"), ("2", "leg 2, 120 V"), ("both", "both legs, 240 V")))]
        | None
    ) = Field(None, description="leg of a split-phase inverter that an AC outlet hangs on; null: the one that bears less")
    source: Id | None = Field(None, description="the charging source that is plugged in here; null: it is not charged through")
    voltage_v: Voltage | None = Field(
        None,
        description="greatest DC voltage of its sheet; null: of a USB module chosen to serve, of a socket typical of its form",
    )
    negative: Negative = "busbar"


class OutletKind(Kind[Outlet]):
    """The duties of an outlet."""

    key = "outlet"
    model = Outlet
    facts = Facts(
        words=Words("outlet", "an outlet", "an outlet", "Outlet"),
        role="ends",
        fed_by=LINE | {"inverter", "ac_breaker", "converter"},
        regulated=True,
        limits=False,
        bolted=False,
        choices=(
            Choice("connector", "connector", "Connector", carries=True),
            Choice("leg", "leg", "Leg"),
            Choice("breaker_a", "ac_breaker", "AC breaker"),
        ),
        fields=(
            FieldWords("ways", "Sockets side by side", "quantity"),
            FieldWords("pins", "Contacts", "choice"),
            FieldWords("source", "Charged in through it by", "source"),
            FieldWords("own_draw_w", "A port draws by itself", "quantity", "W", "typical", needs="usb"),
            FieldWords("voltage_v", "Stands at most", "quantity", "V", "as sold"),
        ),
        own=("connector", "voltage_v"),
        owes=("loads.socket-rating", "power.live-pins", "power.shunt-bypass"),
        height=52,
        slim=True,
    )

    def gives(self, node: Outlet) -> Supply | None:
        return "usb" if node.usb else None

    def brings(self, node: Outlet, key: str, ctx: "PathContext") -> Figure | None:
        """What is charged in through it, where it stands on the line of a source."""
        if node.source is None or ctx.network.stands_on[key] != "pack":
            return None
        return ctx.charging.sources[node.source].current

    def flow(self, node: Outlet, key: str, behind: Flow, ctx: "PathContext") -> Flow:
        before, supply, source = ctx.network.stands_on[key], ctx.network.supply(key), ctx.source(key)
        usual = taken_a_watt(before, supply, source.v_low.number)

        def scale(demand: Demand) -> tuple[float, float]:
            if demand.law == "power":
                return usual, usual
            most = demand.amps_a_watt(source.v_low.number, source.v_max.number)
            # What it takes on the mean counts as energy at the lowest voltage: see `taken_at`.
            return most, demand.amps_a_watt(source.v_nom.number, source.v_nom.number) * source.v_nom.number / source.v_low.number

        return of_loads(ctx.wired.plugged[key], ctx.loads.day, scale)

    def running(self, node: Outlet, key: str, ctx: "PathContext") -> Figure:
        """What is plugged in and on, at the voltage it stands on.

        Source: P = U · I; efficiency of USB modules (assumptions table).
        """
        day, step, v_low = ctx.loads.day, ctx.flows[key].peak_step, ctx.source(key).v_low
        running = {d.label: d.running for d in ctx.wired.plugged[key] if day.on[d.key][step]}
        watts = Figure.by("P", "sum", "W", f"plugged in and on from {day.moment(day.edges_h[step])}", running)
        before, usb = ctx.network.stands_on[key], ctx.network.supply(key) == "usb"
        match before:
            case "ac" if usb:
                return Figure.by("I", "P / η_u", "W", RUNNING_POWER, P=watts, η_u=conversion("usb"))
            case "ac":
                return Figure.by("I", "P", "W", RUNNING_POWER, P=watts)
            case "dc_12v":
                return Figure.by("I", "P / U", "A", RUNNING, P=watts, U=regulated_voltage())
            case "pack" | "usb" if usb:
                return Figure.by("I", "P / (η_u · V_low)", "A", RUNNING, P=watts, η_u=conversion("usb"), V_low=v_low)
            case "pack" | "usb":
                return straight_current(watts, [d for d in ctx.wired.plugged[key] if day.on[d.key][step]], ctx.source(key))
        assert_never(before)

    def at_rating(self, node: Outlet, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def taken_at(self, node: Outlet, key: str, ctx: "PathContext") -> Figure | None:
        return ctx.source(key).v_low if ctx.network.stands_on[key] == "pack" else None

    def greatest_fuse(self, node: Outlet, key: str, ctx: "PathContext") -> float:
        mains_v = outlet_voltage(ctx.wired.legs.get(key), ctx.brief)
        offered = (connectors()[node.connector],) if node.connector else connectors_for(ctx.network.supply(key), mains_v)
        return max(c.rating_a for c in offered) * connector_share(ctx.site.inside_c).number

    def size(self, node: Outlet, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """Its connector; on the AC side its cable and breaker too.

        Source: see `size_connector` and `size_ac_circuit`.
        """
        if ctx.network.stands_on[part.key] == "ac":
            if leg := ctx.wired.legs.get(part.key):
                part.extra["leg"] = ctx.put(part.key, "leg", leg_figure(node, leg, part))
            part.extra["circuit"] = circuit_current(part, ctx)
            if (before := breaker_before(part, ctx) or inverter_current(part, ctx)) is not None:
                part.extra["before"] = before  # what may flow through what stands before it
            size_connector(node, part, ctx, guard_a)
            size_ac_circuit(node, part, ctx)
        else:
            size_connector(node, part, ctx, guard_a)

    def resistance(self, node: Outlet, part: "PartSizing") -> Figure | None:
        return None

    def idle(self, node: Outlet, key: str, ctx: "PathContext") -> IdleDraw | None:
        """The no-load draw of its USB modules.

        Source: typical for a module (assumptions table).
        """
        if not node.usb:
            return None
        ports = Figure.decided("n", node.ways, "", "ports", f"/power/network/{key}/ways")
        at = f"/power/network/{key}/own_draw_w"
        own = assumed("P_u", node.own_draw_w, "usb_idle", "W", "no-load draw of a port", at)
        return IdleDraw(Figure.by("P", "n · P_u", "W", "no-load draw of its modules", n=ports, P_u=own))

    def cutoff(self, node: Outlet, key: str, ctx: "PathContext") -> Cutoff | None:
        return None

    def makes(self, node: Outlet, key: str, ctx: "PathContext") -> Device | None:
        return None

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        yield from ()

    def body(self, node: Outlet, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        return body_type("socket", part.choice.key) if part.choice else None

    def symbol(self, node: Outlet, part: "PartSizing", box: Box) -> list[Primitive]:
        """A socket: the cup that a plug goes into, on the end of its line (IEC 60617)."""
        middle, y = box.x + box.w / 2, box.y
        return [
            Box(middle - 10, y, 20, 24, "ground"),
            Line(((middle, y), (middle, y + 9)), "ink", 1.8),
            Line(((middle - 9, y + 9), (middle + 9, y + 9)), "ink", 1.8),
            Line(arc(middle, y + 19, 9.5, 2, 4), "ink", 1.8),
        ]

    def labels(self, node: Outlet, part: "PartSizing") -> Sequence[Label]:
        return [Label(part.name_in_its_tree), *Label.of(part.current, bold=True), *Label.of(part.choice, faint=True)]


def straight_current(watts: Figure, running: list[Demand], source: "Source") -> Figure:
    """What loads straight on the pack take at most, A: constant power at the lowest voltage, what was typed as a current or a
    resistance by its own law.

    Source: P = U · I; I constant; I = U/R at the greatest voltage.
    """
    others = [d for d in running if d.law != "power"]
    if not others:
        return Figure.by("I", "P / V_low", "A", RUNNING, P=watts, V_low=source.v_low)
    parts: dict[str, Figure] = {}
    for d in running:
        at, power = f"/loads/items/{d.key}/measured", {"P": d.running}
        typed = Figure.decided("U", d.typed_v, "V", "volts, as typed", f"{at}/volts")
        match d.law:
            case "power":
                parts[d.label] = Figure.by("I", "P / V_low", "A", d.load.name, {**power, "V_low": source.v_low})
            case "current":
                parts[d.label] = Figure.by("I", "P / U", "A", f"{d.load.name}, its current stays", {**power, "U": typed})
            case "resistance":
                of = {**power, "V_max": source.v_max, "U": typed}
                parts[d.label] = Figure.by("I", "P · V_max / U^2", "A", f"{d.load.name}, its resistance stays", of)
    return Figure.by("I", "sum", "A", RUNNING, parts)


def taken_a_watt(before: Supply, supply: Supply, v_low: float) -> float:
    """What one watt of a load takes at its outlet, by what feeds the outlet and what it gives.

    A at the pack's lowest working voltage, A at 12 V behind a converter, W behind an inverter.

    Source: P = U · I; efficiency is output over input (definitions).
    """
    at_module = 1 / efficiency("usb") if supply == "usb" else 1.0
    match before:
        case "ac":
            return at_module
        case "dc_12v":
            return 1 / REGULATED_V
        case "pack" | "usb":
            return at_module / v_low
    assert_never(before)


def leg_figure(node: Outlet, leg: str, part: "PartSizing") -> Figure:
    """The leg of a split phase that an outlet hangs on, as decided, or the one that bears less."""
    words = {value: said for value, said in choices(Outlet)["leg"] if isinstance(value, str)}
    how, at = "the leg of its inverter that bears less", f"{part.pointer}/leg"
    return sized("leg", node.leg and words[node.leg], words[leg], "", "leg of the inverter", at, how, {}, "Outlet.leg", leg)


@cache
def connectors_for(supply: Supply, mains_v: float) -> tuple[Connector, ...]:
    """Connectors of a supply, smallest first; those of AC for so many V."""
    fitting = [c for c in connectors().values() if supply in c.supplies and c.mains_v in (None, mains_v)]
    return tuple(sorted(fitting, key=lambda c: (c.rating_w or 0, c.rating_a)))


def one_way(connector: Connector) -> float:
    """What one socket of a connector may give: W where power limits it, else A."""
    return connector.rating_w if connector.rating_w is not None else connector.rating_a


def asked_of_one(node: Outlet, part: "PartSizing", ctx: "PathContext", demands: list[Demand]) -> Figure:
    """What is asked of one socket: the running sum shared over the sockets, or the greatest one load.

    Source: P = U · I; S = U · I on the AC side (definitions).
    """
    supply, day = ctx.network.supply(part.key), ctx.loads.day
    mains_v = mains_voltage(part, ctx).number
    one_unit = max((d.watts.number for d in demands), default=0.0)
    match supply:
        case "usb":
            together, _ = greatest_running(demands, day, running_by_step(demands, day))
            value = max(together.number / node.ways, one_unit)
            how = "the running sum shared over the ports, or the greatest one load"
            return Figure.of("P", value, "W", "asked of one port", how=how, inputs={"P_peak": together})
        case "ac":
            greatest = max((d.apparent_va / d.load.count / mains_v for d in demands), default=0.0)
            together = greatest_apparent(demands, day)
            value = max(together.number / mains_v / node.ways, greatest)
            how = "apparent power over the mains voltage, shared over the sockets, or the greatest one load"
            inputs = {"S": together, "U": mains_voltage(part, ctx)}
            return Figure.of("I", value, "A", "asked of one socket", how=how, inputs=inputs)
        case "dc_12v" | "pack":
            low, high = (REGULATED_V, REGULATED_V) if supply == "dc_12v" else (part.source.v_low.number, part.source.v_max.number)
            one = max((d.watts.number * d.amps_a_watt(low, high) for d in demands), default=0.0)
            value = max(part.current.number / node.ways, one)
            how = "the running current shared over the sockets, or the greatest one load"
            return Figure.of("I", value, "A", "asked of one socket", how=how, inputs={"I": part.current})
    assert_never(supply)


def size_connector(node: Outlet, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
    """The connector of an outlet, and what it may give.

    Source: continuous rating of the connector (connectors table).
    """
    supply = ctx.network.supply(part.key)
    offered = connectors_for(supply, mains_voltage(part, ctx).number)
    asked = asked_of_one(node, part, ctx, ctx.wired.plugged[part.key])
    need_a = guard_a if supply != "ac" else 0.0
    share = connector_share(ctx.site.inside_c)
    carries = [(c, c.rating_a * share.number) for c in offered]
    strong = [c for c, amps in carries if amps >= (stands_on_ac(node, amps, part, ctx) if supply == "ac" else need_a)]
    serving = [c for c in strong if one_way(c) * share.number >= asked.number - 1e-9]
    chosen = connectors()[node.connector] if node.connector else (serving or strong[-1:] or offered[-1:])[0]
    how = "smallest sold that carries the protection before it and what is plugged in"
    inputs = {"I_guard": Figure.of("I_guard", need_a, "A", "protection before it"), "asked": asked}
    said, at, of = node.connector and chosen.label, f"{part.pointer}/connector", f"connector:{supply}"
    figure = sized("connector", said, chosen.label, "", "connector", at, how, inputs, of, chosen.key)
    part.choice = ctx.put(part.key, "connector", figure)
    part.rating = ctx.put(part.key, "rating", connector_rating(chosen, ctx.site.inside_c))
    one = chosen.figure("x", one_way(chosen), asked.unit, f"{chosen.label}: for one way")
    limit = Figure.by("limit", "x · k_T", asked.unit, f"{chosen.label}: for one way in the air inside", x=one, k_T=share)
    part.extra |= {"asked": ctx.put(part.key, "asked", asked), "limit": ctx.put(part.key, "limit", limit)}
    if node.usb:
        size_voltage(node.voltage_v, part, ctx, "usb-voltage")
    else:
        form_voltage(node.voltage_v, chosen, part, ctx)


def has_breaker(node: Outlet, rating_a: float, part: "PartSizing", ctx: "PathContext") -> bool:
    """Whether an AC outlet whose socket carries so many A has a breaker of its own: see `size_ac_circuit`."""
    alone = node.run.length_m > 0 and breaker_before(part, ctx) is None
    before = part.extra.get("before")
    return node.breaker_a is not None or alone or before is None or before.number > rating_a


def stands_on_ac(node: Outlet, rating_a: float, part: "PartSizing", ctx: "PathContext") -> float:
    """What an AC socket of so many A must stand, A: its own breaker, as pinned or the smallest sold that carries all that runs on its
    circuit; where it has none, what runs.
    """
    runs_a = part.extra["circuit"].number
    return (node.breaker_a or breakers(ctx.brief).pick(runs_a)) if has_breaker(node, rating_a, part, ctx) else runs_a


def size_ac_circuit(node: Outlet, part: "PartSizing", ctx: "PathContext") -> None:
    """Breaker and cable of an AC outlet.

    It gets a breaker of its own where a cable leads to it, and where what stands before it, a breaker or the inverter, lets
    through more than its socket carries.
    Source: 1.25 × for long, and no larger than the socket it protects (IEC 60364-4-43; sizes table).
    """
    assert part.rating is not None
    if has_breaker(node, part.rating.number, part, ctx):
        breaker = size_breaker(node.breaker_a, "breaker_a", part.rating.number, part, ctx)
        part.extra["breaker"] = ctx.put(part.key, "ac_breaker", breaker)
    protecting = part.extra.get("breaker", part.extra.get("before"))
    if node.run.length_m > 0 and protecting is not None:
        size_ac_cable(part, ctx, protecting)
