"""Sources of the charging: each joined in its order, DC before AC, the battery before the array, the array last of all."""

from itertools import pairwise

from kegcart.core.assembly.plan.acts import Act, BuildPlan, Measure
from kegcart.core.assembly.plan.powering import NO_VOLTAGE, REVERSED, upstream_on
from kegcart.core.assembly.plan.wiring import Wiring
from kegcart.core.charging.kinds import SolarArray, Vehicle
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.power.path.network import where_it_joins
from kegcart.core.power.path.parts import PowerSizing

SPARK = "The first connection may spark: eyes covered, polarity measured before."
SUN = "An array is live whenever light falls on it: covered, or its switch off, until its polarity is measured."


def plan_sources(charging: ChargingSizing, power: PowerSizing, made: list[Wiring], plan: BuildPlan) -> None:
    """The acts that join the sources, the arrays last."""
    joins = where_it_joins(power.ctx.path)
    for sizing in charging.sources.values():
        join = joins.get(sizing.key)
        if join is None:
            continue  # it joins nowhere yet, which is a finding of its own
        of_source(sizing, join, power, made, plan)
    arrays = plan.of("array:")
    rest = [key for key in plan.acts if key not in arrays]
    for array in arrays:
        plan.after(array, rest, "the array comes last: it cannot be switched off by anything but the dark")
    for one, two in pairwise(arrays):
        plan.after(two, one, "one array after the other")


def of_source(sizing: SourceSizing, join: str, power: PowerSizing, made: list[Wiring], plan: BuildPlan) -> None:
    """A source is joined where its input is."""
    source, at = power.parts[join].source, sizing.pointer
    low, high = source.v_low, source.v_max
    volts = Measure("volts", "At its terminals, from the pack", "V", source.v_nom, low, high, (*REVERSED, *NO_VOLTAGE))
    if isinstance(sizing.source, SolarArray):
        text = "Battery side of the controller first: it learns the voltage of the pack from it. The array stays off."
        title = f"Controller of {sizing.name} to the pack"
        plan.add(Act(f"connect:{sizing.key}", "sources", "connect", title, text, (at,), measures=(volts,), caution=SPARK))
        cold = sizing.extra["voc_cold"]
        array = Measure(
            "volts",
            "Open voltage of the array, plus to minus",
            "V",
            None,
            None,
            cold,
            ("more panels in a string than planned", *REVERSED),
        )
        sign = Measure("polarity", "Plus on plus, measured at the controller's plugs", causes=REVERSED)
        text = "Covered or switched off; measure, then plug in."
        plan.add(
            Act(
                f"array:{sizing.key}",
                "sources",
                "connect",
                f"Array of {sizing.name}",
                text,
                (at,),
                measures=(sign, array),
                caution=SUN,
            )
        )
        plan.after(f"array:{sizing.key}", f"connect:{sizing.key}", "battery first, array second", telling=True)
    else:
        how = (
            "At the station first, then its fuse at the vehicle's battery, then the engine."
            if isinstance(sizing.source, Vehicle)
            else "DC to the station first, then the mains; off before it is unplugged."
        )
        plan.add(
            Act(
                f"connect:{sizing.key}", "sources", "connect", f"Join {sizing.name}", how, (at,), measures=(volts,), caution=SPARK
            )
        )
    act = f"connect:{sizing.key}"
    plan.after(act, upstream_on(join, power), "what it charges is live, and fused towards it")
    plan.after(act, [w.late or w.act for w in made if w.pieces[0].place == at], "its own cable is made")
    ready = [key for key in (*plan.of("out:"), *plan.of("ac:load:")) if key not in plan.earlier(act)]
    plan.after(act, ready, "what it charges is proved first")
