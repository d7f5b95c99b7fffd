"""What feeds a source: the wall circuit, the supply of a converter; and the box that it warms."""

from collections.abc import Iterator

from kegcart.core.brief.document import OUTLET_VOLTAGE, Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.charging.kinds import MainsCharger, StepDown
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.check import Bound, Check, Fault, at_least, at_most, compared, held, is_so, mend, not_yet, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.reference import assumption, sizes

STEP_HEADROOM_V = 1.5
"""What a step-down converter needs over its output, V: typical of modules."""


def judge_mains(sizing: SourceSizing, source: MainsCharger, brief: Brief, site: Site) -> Iterator[Check]:
    """Every check of a mains charger and its circuit."""
    yield wall_circuit(sizing, source)
    yield mains_mismatch(sizing, source, brief)
    yield module_chargers(sizing, source)
    if source.inside:
        yield inside_heat(sizing, site)


@judges("charging.wall-circuit", "wall circuit", STOP, MEND)
def wall_circuit(sizing: SourceSizing, source: MainsCharger) -> Check:
    """What a charger takes, and what else runs on its circuit, stay within 80 % of the circuit's breaker.

    Source: practice: 80 % for what runs for hours (assumptions table).
    """
    at = f"{sizing.pointer}/circuit_a"
    if source.plugged_into == "own inverter":
        return held("charging.wall-circuit", at)
    total, allowed, breaker = (sizing.extra[name] for name in ("circuit_a", "allowed_a", "breaker_a"))

    def fault() -> Fault:
        remedies = []
        if source.current_a is not None:
            remedies.append(Remedy("Let its current be chosen", [release(f"{sizing.pointer}/current_a")]))
        larger = next((a for a in (15, 16, 20, 25, 30, 32) if a * assumption("wall_share").number >= total.number), None)
        if larger is not None:
            remedies.append(Remedy(f"A circuit of {larger} A", [set_value(at, larger)]))
        sold = [a for a in sizes("charger").sizes if a < sizing.one.number]
        remedies += [Remedy(f"A charger of {a:g} A", [set_value(f"{sizing.pointer}/current_a", a)]) for a in reversed(sold[-3:])]
        said = (
            f"{sizing.name} and what else runs there take {{I_sum}} of a circuit of {{I_c}}; for hours it carries {{I_allowed}}."
        )
        why = "A socket circuit loaded to its breaker for a whole night heats its contacts, and trips when nobody is there."
        figures = {"I_sum": total, "I_c": breaker, "I_allowed": allowed}
        if total.number > breaker.number + 1e-9:
            return stop(said, why, figures, tuple(remedies))
        return mend(said, why, figures, tuple(remedies))

    return at_most("charging.wall-circuit", at, total, allowed, fault)


@judges("charging.mains-mismatch", "mains voltage of the charger", STOP)
def mains_mismatch(sizing: SourceSizing, source: MainsCharger, brief: Brief) -> Check:
    """A charger is made for the mains that it is plugged into.

    Source: rated input on the plate (IEC 60335-1 marking).
    """
    at, here = f"{sizing.pointer}/input", OUTLET_VOLTAGE[brief.mains]
    fits = source.input == "any" or source.input == f"{here:g} V"
    return is_so(
        "charging.mains-mismatch",
        at,
        fits,
        lambda: stop(
            f"{sizing.name} is made for {source.input}; the mains there have {{U}}.",
            "On twice its voltage its input burns; on half of it it gives nothing, or overheats trying.",
            {"U": Figure.decided("U", here, "V", "mains voltage", "/brief/mains")},
            (Remedy("A charger for 100 to 240 V", [set_value(at, "any")]),),
        ),
    )


@judges("charging.module-chargers", "one charger for each module", NOTE)
def module_chargers(sizing: SourceSizing, source: MainsCharger) -> Check:
    """Where each module or string has a charger of its own, there are as many chargers as of those.

    Source: practice: a module without its charger stays behind, and ends the run of all.
    """
    at = f"{sizing.pointer}/count"
    if source.each == "pack":
        return held("charging.module-chargers", at)
    in_series, strings = sizing.charged.modules
    count = Figure.decided("n", source.count, "", "chargers", at)
    there = in_series if source.each == "series" else strings
    words = "modules in series" if source.each == "series" else "strings"
    needed = Figure.of("n_m", there, "", words, how="as the pack is built")
    return compared(
        "charging.module-chargers",
        at,
        source.count == there,
        count,
        needed,
        Bound.EQUAL,
        lambda: note(
            f"{{n}} chargers for {{n_m}} {words}: each takes its part from the wall, and none balances the others.",
            "Modules that are charged apart drift apart where one has no charger, or an unlike one; the weakest then ends the day.",
            {"n": count, "n_m": needed},
            (
                Remedy(f"{there} chargers", [set_value(at, there)]),
                Remedy("One charger for the whole pack", [set_value(f"{sizing.pointer}/each", "pack")]),
            ),
        ),
    )


@judges("charging.inside-heat", "heat of a charger in the box", MEND)
def inside_heat(sizing: SourceSizing, site: Site) -> Check:
    """A charger that stands in the box warms it by no more than was allowed for.

    Source: ΔT = Q · R_th of a closed box (assumptions table); what it does not pass on stays inside.
    """
    heat = sizing.extra["heat"]
    rise = Figure.by("ΔT_q", "Q · R_box", "K", "rise by the charger alone, closed", Q=heat, R_box=assumption("box_resistance"))
    allowed = Figure.by("ΔT", "T_in − T_max", "K", "rise allowed for inside", T_in=site.inside_c, T_max=site.hot_c)
    return at_most(
        "charging.inside-heat",
        f"{sizing.pointer}/inside",
        rise,
        allowed,
        lambda: mend(
            f"{sizing.name} leaves {{Q}} in the box: closed, it rises by {{ΔT_q}}; {{ΔT}} is allowed for.",
            "That heat comes exactly when the cells are warm from the day, and above their limit they must not be charged.",
            {"Q": heat, "ΔT_q": rise, "ΔT": allowed},
            (Remedy("Set it up beside the box", [set_value(f"{sizing.pointer}/inside", False)]),),
        ),
    )


def judge_step_down(sizing: SourceSizing, source: StepDown) -> Iterator[Check]:
    """Every check of a step-down converter and what feeds it."""
    yield enough_to_step_down(sizing)
    yield from input_window(sizing, source)


@judges("charging.input-window", "input of a charging converter", STOP, MEND)
def enough_to_step_down(sizing: SourceSizing) -> Check:
    """A step-down converter is fed with more than it gives.

    Source: a step-down converter needs its own drop on top of its output (makers' sheets).
    """
    at, supply = f"{sizing.pointer}/supply_v", sizing.extra["supply_v"]
    margin = Figure.of("ΔV", STEP_HEADROOM_V, "V", "its own drop", how="typical of modules")
    least = Figure.by("V_least", "V_set + ΔV", "V", "it must be fed with", V_set=sizing.set_point, ΔV=margin)
    higher = next((v for v in (12, 19, 24, 36, 48, 60) if v >= least.number), None)
    return at_least(
        "charging.input-window",
        at,
        supply,
        least,
        lambda: mend(
            f"{sizing.name} is fed with {{U}}, and is to hold {{V_set}}: it needs {{V_least}}.",
            "A step-down converter cannot lift a voltage: the pack stays where its supply ends.",
            {"U": supply, "V_set": sizing.set_point, "V_least": least},
            (Remedy(f"Feed it from {higher} V", [set_value(at, higher)]),) if higher else (),
        ),
    )


@judges("charging.input-window")
def input_window(sizing: SourceSizing, source: StepDown) -> Iterator[Check]:
    """What feeds a converter lies within its input window.

    Source: its sheet.
    """
    at, supply = f"{sizing.pointer}/supply_v", sizing.extra["supply_v"]
    if source.window_min_v is None or source.window_max_v is None:
        yield not_yet("charging.input-window", at, "the input window of its sheet")
        return
    low = Figure.decided("V_lo", source.window_min_v, "V", "lowest input", f"{sizing.pointer}/window_min_v")
    high = Figure.decided("V_hi", source.window_max_v, "V", "highest input", f"{sizing.pointer}/window_max_v")
    middle = round((low.number + high.number) / 2, 1)

    def fault() -> Fault:
        return stop(
            f"{sizing.name} is fed with {{U}}; its sheet takes {{V_lo}} to {{V_hi}}.",
            "Above its window it fails, often as a short from input to output: the pack then sees the supply.",
            {"U": supply, "V_lo": low, "V_hi": high},
            (
                Remedy(f"Feed it with {middle:g} V", [set_value(at, middle)]),
                Remedy(
                    "A module whose window is wider",
                    [release(f"{sizing.pointer}/window_min_v"), release(f"{sizing.pointer}/window_max_v")],
                ),
            ),
        )

    yield at_most("charging.input-window", at, supply, high, fault)
    yield at_least("charging.input-window", at, supply, low, fault)
