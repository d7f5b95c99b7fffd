"""Split phase: which outlet hangs on which leg of its inverter, at what voltage, and what each leg bears.

Between either leg and the neutral stand 120 V, between the two 240 V. What is on both bears on each with half of its power.
"""

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

from kegcart.core.brief.document import OUTLET_VOLTAGE, Brief
from kegcart.core.figure import Figure
from kegcart.core.loads.profile import Day
from kegcart.core.loads.sizing import Demand, by_step

if TYPE_CHECKING:
    from kegcart.core.power.path.network import Network

SPLIT = "120/240 V split-phase"
LEGS = ("1", "2")
BOTH_V = 240.0
"""Between both legs."""


def is_split(brief: Brief) -> bool:
    """Whether inverters give two legs."""
    return brief.mains == SPLIT


def choose_legs(network: "Network", plugged: Mapping[str, list[Demand]], brief: Brief) -> dict[str, str]:
    """The leg of every AC outlet: "1", "2" or "both"; those that are not decided are shared out, the largest first, to the leg of
    their inverter that bears less. Nothing where the mains have one phase.
    """
    if not is_split(brief):
        return {}
    out: dict[str, str] = {}
    for key, node in network.nodes.items():
        if node.part == "inverter":
            outlets = [k for k in network.below(key) if network.nodes[k].part == "outlet"]
            out |= shared_out(outlets, network, plugged)
    return out


def shared_out(outlets: list[str], network: "Network", plugged: Mapping[str, list[Demand]]) -> dict[str, str]:
    """The legs of the outlets of one inverter."""
    decided: dict[str, str] = {key: leg for key in outlets if (leg := getattr(network.nodes[key], "leg", None))}
    bears = dict.fromkeys(LEGS, 0.0)
    weight = {key: sum(d.apparent_va for d in plugged.get(key, [])) for key in outlets}
    for key, leg in decided.items():
        for each in LEGS:
            bears[each] += weight[key] * share(leg, each)
    for key in sorted((k for k in outlets if k not in decided), key=lambda k: -weight[k]):
        leg = min(LEGS, key=lambda each: bears[each])
        decided[key] = leg
        bears[leg] += weight[key]
    return decided


def share(leg: str, of: str) -> float:
    """The share of an outlet's power that it puts on a leg: all on its own, half where it hangs on both."""
    return 0.5 if leg == "both" else float(leg == of)


def outlet_voltage(leg: str | None, brief: Brief) -> float:
    """What an AC outlet gives, V."""
    return BOTH_V if leg == "both" else OUTLET_VOLTAGE[brief.mains]


def on_leg(outlets: Iterable[str], leg: str, legs: Mapping[str, str], plugged: Mapping[str, list[Demand]], day: Day) -> Figure:
    """The greatest apparent power in VA that outlets put on a leg at once.

    Source: apparent powers of what runs together add; a load between both legs bears on each with half of it.
    """
    shares = [(d, s) for key in outlets if (s := share(legs[key], leg)) > 0 for d in plugged.get(key, [])]
    steps = [0.0] * day.steps
    for demand, part in shares:
        steps = [total + part * va for total, va in zip(steps, by_step([demand], day, lambda d: d.apparent_va), strict=True)]
    at = steps.index(max(steps))
    parts = {
        f"{d.label}, half" if part < 1 else d.label: Figure.of("S", d.apparent_va * part, "VA", d.load.name)
        for d, part in shares
        if day.on[d.key][at]
    }
    return Figure.by("S_leg", "sum", "VA", f"greatest apparent power on leg {leg}", parts)


def leg_surge(outlets: Iterable[str], leg: str, legs: Mapping[str, str], plugged: Mapping[str, list[Demand]], day: Day) -> float:
    """The worst start on a leg on top of what runs there, W. Source: the surge stands on top of what runs beside it."""
    shares = [(d, s) for key in outlets if (s := share(legs[key], leg)) > 0 for d in plugged.get(key, [])]
    worst = 0.0
    for step in range(day.steps):
        on = [(d, s) for d, s in shares if day.on[d.key][step]]
        running = sum(d.running.number * s for d, s in on)
        worst = max(worst, running + max((d.surge_extra.number * s for d, s in on), default=0.0))
    return worst
