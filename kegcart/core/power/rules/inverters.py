"""Inverters against their loads and their source."""

from collections.abc import Iterator

from kegcart.core.catalogue import NOTE, STOP, judges
from kegcart.core.check import HAIR, Bound, Check, Fault, at_least, at_most, compared, note, stop
from kegcart.core.electrical.inverter import class_for, pick_rating
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.loads.profile import Day
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Inverter
from kegcart.core.power.kinds.base import release_fields
from kegcart.core.power.path.legs import LEGS
from kegcart.core.power.path.parts import InverterSizing, PowerSizing
from kegcart.core.reference import assumption

INVERTER_FIELDS = ("rating_w", "surge_w", "idle_w")
"""What belongs to an inverter of one size, and is given back to auto with it."""


def judge_inverters(power: PowerSizing, day: Day) -> Iterator[Check]:
    """Rating, surge, window and appetite of every inverter."""
    for sizing in power.inverters.values():
        node = node_of(sizing, power)
        yield continuous(sizing, node)
        yield surge(sizing, node)
        yield from legs(sizing, node, power)
        yield from window(sizing, node, power)
        yield oversize(sizing, node, power, day)


def node_of(sizing: InverterSizing, power: PowerSizing) -> Inverter:
    """The decisions about an inverter."""
    node = power.parts[sizing.key].node
    assert isinstance(node, Inverter)
    return node


def fit_the_loads(key: str) -> Remedy:
    """An inverter given back to auto, to fit the loads."""
    return Remedy("Let the inverter fit the loads", [release(f"/power/network/{key}/{name}") for name in INVERTER_FIELDS])


@judges("power.inverter-continuous", "continuous rating at the hottest", STOP)
def continuous(sizing: InverterSizing, node: Inverter) -> Check:
    """What runs at once is within the continuous rating at the hottest.

    Source: 80 % of the continuous rating, derated above 40 °C (makers' sheets, assumptions table).
    """
    return at_most(
        "power.inverter-continuous",
        f"/power/network/{sizing.key}/rating_w",
        sizing.peak.running,
        sizing.continuous,
        lambda: stop(
            f"{node.name}: {{P_peak}} runs at once; it gives {{P_cont}} at the hottest.",
            "An overloaded inverter shuts down with everything on it.",
            {"P_peak": sizing.peak.running, "P_cont": sizing.continuous},
            (fit_the_loads(sizing.key),) if node.rating_w or node.surge_w else (),
        ),
    )


@judges("power.inverter-surge", "surge rating", STOP)
def surge(sizing: InverterSizing, node: Inverter) -> Check:
    """The worst start is within the surge rating, and within its time.

    Source: twice the rating for some seconds (makers' sheets, assumptions table).
    """
    time_limit, start = assumption("inverter_surge_time"), sizing.ac.worst_start
    too_long = start is not None and start.length_s > time_limit.number and sizing.ac.worst(start) > sizing.continuous.number
    return compared(
        "power.inverter-surge",
        f"/power/network/{sizing.key}/rating_w",
        sizing.peak.surge.number <= sizing.surge.number + HAIR and not too_long,
        sizing.peak.surge,
        sizing.surge,
        Bound.MOST,
        lambda: stop(
            f"{node.name}: the worst start asks for {{P_surge}}; its surge rating is {{P_s}} for {{t_s}}.",
            "The motor does not start, and the inverter trips.",
            {"P_surge": sizing.peak.surge, "P_s": sizing.surge, "t_s": time_limit},
            (fit_the_loads(sizing.key),) if node.rating_w or node.surge_w else (),
        ),
    )


@judges("loads.leg", "what one leg of a split phase bears", STOP)
def legs(sizing: InverterSizing, node: Inverter, power: PowerSizing) -> Iterator[Check]:
    """Each leg of a split phase gives what hangs on it: half of the continuous rating at the hottest, half of the surge rating.

    Source: makers' sheets: each leg has its own limit; a load between both bears on each with half.
    """
    if not sizing.on_legs:
        return
    at, half = f"/power/network/{sizing.key}/rating_w", Figure.of("k", 0.5, "×", "of both legs")
    gives = Figure.by("S_most", "P_cont · k", "VA", "one leg at the hottest", P_cont=sizing.continuous, k=half)
    starts = Figure.by("P_most", "P_s · k", "W", "one leg in a surge", P_s=sizing.surge, k=half)
    pinned = [k for k in power.network.below(sizing.key) if getattr(power.network.nodes[k], "leg", None) in LEGS]
    remedies = (
        [Remedy("Let the outlets be shared out to the legs", [release(f"/power/network/{k}/leg") for k in pinned])]
        if pinned
        else []
    )
    if node.rating_w or node.surge_w:
        remedies.append(fit_the_loads(sizing.key))
    for leg, need in sizing.on_legs.items():
        worst = Figure.of("P_leg", need.surge_w, "W", f"worst start on leg {leg}", inputs={"S_leg": need.apparent})

        def fault(said: str, figures: dict[str, Figure]) -> Fault:
            why = "A leg above its limit shuts the inverter down, with everything on both."
            return stop(said, why, figures, tuple(remedies))

        def too_much(leg: str = leg, asked: Figure = need.apparent) -> Fault:
            return fault(
                f"{node.name}: {{S_leg}} hangs on leg {leg} at once; one leg gives {{S_most}}.", {"S_leg": asked, "S_most": gives}
            )

        def too_hard(leg: str = leg, asked: Figure = worst) -> Fault:
            return fault(
                f"{node.name}: a start takes {{P_leg}} from leg {leg}; one leg gives {{P_most}}.",
                {"P_leg": asked, "P_most": starts},
            )

        yield at_most("loads.leg", at, need.apparent, gives, too_much)
        yield at_most("loads.leg", at, worst, starts, too_hard)


@judges("power.inverter-window", "input window", STOP, NOTE)
def window(sizing: InverterSizing, node: Inverter, power: PowerSizing) -> Iterator[Check]:
    """The source stays within the inverter's input window, from nearly empty to charged.

    Below it the inverter stops and harms nothing: a note, where it runs at all.

    Source: input window by battery-voltage class (makers' sheets, inverters table).
    """
    source, low, high = power.parts[sizing.key].source, sizing.window_min, sizing.window_max
    remedies = (*own_window(sizing, node), *(into_window(power.ctx.pack) if source.key == PACK else ()))

    def fault() -> Fault:
        return stop(
            f"{node.name}: {source.name} goes from {{V_empty}} to {{V_max}}; the inverter takes {{low}} to {{high}}.",
            "Above its window an inverter is destroyed; below it does not run.",
            {"V_empty": source.empty, "V_max": source.v_max, "low": low, "high": high},
            remedies,
        )

    def stops_early() -> Fault:
        return note(
            f"{node.name} stops at {{low}}; {source.name} goes down to {{V_empty}}: what lies between stays in it.",
            "An inverter with a wider window, or another count of cells, would use the rest; the usable energy already leaves it out.",
            {"low": low, "V_empty": source.empty},
            remedies,
        )

    at = f"/power/network/{sizing.key}"
    charged = at_most("power.inverter-window", at, source.v_max, high, fault)
    yield charged
    if charged.finding is None:
        runs = source.charged.number > low.number
        yield at_least("power.inverter-window", at, source.empty, low, stops_early if runs else fault)


def own_window(sizing: InverterSizing, node: Inverter) -> tuple[Remedy, ...]:
    """An inverter of the usual window of its class, where another was typed."""
    if node.window_min_v is None and node.window_max_v is None:
        return ()
    fields = release_fields(f"/power/network/{sizing.key}", ("window_min_v", "window_max_v"))
    return (Remedy("An inverter of the usual input window", fields),)


def into_window(pack: PackSizing) -> tuple[Remedy, ...]:
    """The pack brought to the nearest count of cells in series for which inverters are sold."""
    nearest = min(pack.chemistry.classes.values(), key=lambda s: abs(s - pack.series.number))
    if nearest == pack.series.number:
        return ()
    return form_of(pack.pack).with_series(pack, nearest)


@judges("power.inverter-oversize", "what idling takes", NOTE)
def oversize(sizing: InverterSizing, node: Inverter, power: PowerSizing, day: Day) -> Check:
    """An inverter's idling takes no more than a tenth of what the source gives a day."""
    source, at = power.parts[sizing.key].source, f"/power/network/{sizing.key}"
    on_h = 24.0 if node.left_on else sum(h for h, w in zip(day.hours, sizing.ac.running, strict=True) if w > 0) / day.days
    how = "around the clock, or while AC loads are scheduled"
    hours = Figure.of("t", on_h, "h", "hours switched on a day", how=how)
    idle = Figure.by("E_idle", "P0 · t", "Wh", "idle draw a day", P0=sizing.idle, t=hours)
    there = power.available if source.key == PACK else power.banks[source.key].usable
    share = assumption("inverter_idle_share")
    limit = Figure.by("E_most", "k · E_avail", "Wh", "what idling may take a day", k=share, E_avail=there)

    def fault() -> Fault:
        remedies = []
        if node.left_on:
            remedies.append(Remedy("Switch it off outside the hours of its loads", [set_value(f"{at}/left_on", False)]))
        figures, compare = {"E_idle": idle, "E_avail": there, "P_rated": sizing.rating}, ""
        smaller = pick_rating(class_for(source.v_nom.number).ratings_w, sizing.needed.number)
        if node.rating_w and smaller < sizing.rating.number:
            remedies.append(fit_the_loads(sizing.key))
            k_0 = assumption("inverter_idle")
            serving = Figure.of("P_small", smaller, "W", "rating that serves", inputs={"P_need": sizing.needed})
            label = "idle draw of the smaller one"
            figures["P_small"] = serving
            figures["E_small"] = Figure.by("E_small", "k_0 · P_small · t", "Wh", label, k_0=k_0, P_small=serving, t=hours)
            compare = " {P_small} would serve and take {E_small}."
        return note(
            f"{node.name}, {{P_rated}}, idles away {{E_idle}} a day of {{E_avail}} usable.{compare}",
            "An inverter eats while it waits: one that fits, or a switch, is a larger battery for nothing.",
            figures,
            tuple(remedies),
        )

    return at_most("power.inverter-oversize", at, idle, limit, fault)
