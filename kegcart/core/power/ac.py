"""The AC side: what leads from the inverter to an outlet apart from its face: cable, breaker, residual-current protection.

Cables of the AC side follow building practice, whatever the school of the DC side.
"""

from kegcart.core.brief.document import OUTLET_VOLTAGE
from kegcart.core.choice import sized
from kegcart.core.electrical import conductors
from kegcart.core.figure import Figure
from kegcart.core.power.document import Inverter, Outlet
from kegcart.core.power.parts import Bench, PartSizing
from kegcart.core.reference import assumption, sizes, wires

LEAST_MM2 = 1.5
LEAST_AWG_MM2 = 2.08


def size_ac_branch(part: PartSizing, bench: Bench) -> None:
    """Breaker and cable of an AC outlet; sockets on the inverter's face need neither."""
    node = part.node
    if not isinstance(node, Outlet) or part.rating is None or (node.run.length_m <= 0 and node.breaker_a is None):
        return
    brief, at = bench.brief, part.pointer
    asked, connector = part.extra["asked"], part.rating
    margin = assumption("fuse_margin")
    needed = asked.number * margin.number
    breaker = bench.put(
        part.key,
        "ac_breaker",
        sized(
            "I_b",
            node.breaker_a,
            max((s for s in sizes("ac-breaker").sizes if s <= connector.number), default=sizes("ac-breaker").sizes[0])
            if needed > connector.number
            else min(sizes("ac-breaker").pick(needed), connector.number),
            "A",
            "AC breaker",
            f"{at}/breaker_a",
            "smallest sold from 1.25 × what is asked of a socket, and no larger than the socket",
            {"I": asked, "k": margin, "I_con": connector},
            "ac-breaker",
        ),
    )
    part.extra["breaker"] = breaker
    if node.run.length_m <= 0:
        return
    least = LEAST_MM2 if brief.gauge_system == "mm2" else LEAST_AWG_MM2
    inside = bench.site.inside_c.number

    def bears(gauge: str) -> float:
        return conductors.ampacity(wires()[gauge], "building", inside, min(node.run.insulation_c, 75), node.run.bundled)

    offered = [w for w in conductors.gauges(brief.gauge_system) if w.area_mm2 >= least]
    wire = (
        wires()[node.run.gauge] if node.run.gauge else next((w for w in offered if bears(w.key) >= breaker.number), offered[-1])
    )
    gauge = sized(
        "A",
        node.run.gauge,
        wire.key,
        "",
        "gauge, each of three conductors",
        f"{at}/run/gauge",
        "thinnest that bears its breaker by building practice, and no thinner than is usual in walls",
        {"I_b": breaker},
        "gauge",
    )
    ampacity = Figure.of(
        "I_amp",
        bears(wire.key),
        "A",
        "derated ampacity, building practice",
        how="table of building practice, derated for the air inside and for bundling",
        inputs={"T_in": bench.site.inside_c, "A": gauge},
    )
    mains = OUTLET_VOLTAGE[brief.mains]
    ohm = conductors.resistance(2 * node.run.length_m, wire.area_mm2, 40)
    drop = Figure.by(
        "d",
        "I · R / U",
        "share",
        "voltage drop",
        I=asked,
        R=Figure.of("R", ohm, "Ω", "both legs", how="copper at 40 °C", inputs={"A": gauge}),
        U=Figure.decided("U", mains, "V", "mains voltage", "/brief/mains"),
    )
    part.extra |= {"ac_gauge": gauge, "ac_ampacity": ampacity}
    for name, figure in {"gauge": gauge, "ampacity": ampacity, "drop": drop}.items():
        bench.put(part.key, f"run/{name}", figure)


def has_rcd(node: Inverter, exposure: str) -> bool:
    """Whether outlets of an inverter have residual-current protection: as decided, or where the site is wet."""
    return node.rcd if node.rcd is not None else exposure == "wet"
