"""A pack that is too cold to be charged, and the pad that warms it."""

from collections.abc import Iterator
from math import ceil

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.charging.warming import PAD, WarmingSizing
from kegcart.core.check import Check, Fault, at_least, at_most, is_so, mend, not_yet, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, set_value
from kegcart.core.reference import assumption

STEP_W = 10


def judge_warming(charging: ChargingSizing) -> Iterator[Check]:
    """Every check of the cold, where something charges the pack."""
    if charging.warming is not None and charging.sources:
        yield warm_enough(charging.warming)
    yield from pad_itself(charging)


def stronger(warming: WarmingSizing) -> Remedy:
    """A pad that warms the pack in the time there is; of an area that keeps it below what cells stand, with a cut-out of its own."""
    watts = ceil(warming.wanted_w / STEP_W) * STEP_W
    area = ceil(watts / assumption("pad_most").number / STEP_W) * STEP_W
    patch = [set_value(f"{PAD}/watts", watts), set_value(f"{PAD}/area_cm2", area), set_value(f"{PAD}/cut_out", True)]
    return Remedy(f"A pad of {watts} W with its own cut-out, fed by the charger", patch)


@judges("charging.warming", "charging in the coldest days", MEND, NOTE)
def warm_enough(warming: WarmingSizing) -> Check:
    """Where it can be too cold to charge, a pad warms the pack in good time.

    Source: Newton's law of cooling; the board locks below the least temperature for charging (chemistries table).
    """
    at, free = f"{PAD}/watts", warming.free
    if warming.watts is None or warming.reached is None:
        fault = note(
            "The coldest site is {ΔT} below {T_free}, where the board lets charge in: until the pack is that warm, nothing charges it.",
            "A pad fed by the charger warms it; fed by the cold pack it would only empty it.",
            {"ΔT": warming.rise, "T_free": free},
            (stronger(warming),),
        )
        return is_so("charging.warming", at, False, lambda: fault)
    limit = warming.rise
    if warming.hours is None:

        def never() -> Fault:
            return mend(
                "The pad comes {ΔT_end} above the air; {ΔT} are needed until the board lets charge in.",
                "What the box loses is as much as the pad gives: it stays too cold, however long it waits.",
                {"ΔT_end": warming.reached or limit, "ΔT": limit},
                (stronger(warming),),
            )

        return at_least("charging.warming", at, warming.reached, limit, never, slack=0.0)
    most = assumption("pad_time")

    def slow() -> Fault:
        return mend(
            "The pad takes {t_w} until the board lets charge in; {t_pad} is usual.",
            "The hours in which it warms are missing from those in which it charges.",
            {"t_w": warming.hours or most, "t_pad": most},
            (stronger(warming),),
        )

    return at_most("charging.warming", at, warming.hours, most, slow)


@judges("charging.pad", "the heating pad itself", STOP, MEND)
def pad_itself(charging: ChargingSizing) -> Iterator[Check]:
    """A pad has a cut-out of its own, and is no hotter than cells stand.

    Source: 60 °C at cells; 0.3 W/cm² (practice, assumptions table).
    """
    pad = charging.charging.pad
    if not pad.watts:
        return
    watts = Figure.decided("P_pad", pad.watts, "W", "heating pad", f"{PAD}/watts")
    yield is_so(
        "charging.pad",
        f"{PAD}/cut_out",
        pad.cut_out,
        lambda: stop(
            "The pad of {P_pad} has no cut-out of its own.",
            "When its switch sticks it heats the cells until they fail: only a cut-out in the pad itself ends that.",
            {"P_pad": watts},
            (Remedy("A pad with its own cut-out, 60 °C", [set_value(f"{PAD}/cut_out", True)]),),
        ),
    )
    most = assumption("pad_most")
    if pad.area_cm2 is None:
        yield not_yet("charging.pad", f"{PAD}/area_cm2", "the area of the pad")
        return
    area = Figure.decided("A", pad.area_cm2, "cm²", "area of the pad", f"{PAD}/area_cm2")
    dense = Figure.by("p", "P_pad / A", "W/cm²", "on each cm² of the pad", P_pad=watts, A=area)

    def hot() -> Fault:
        enough = ceil(pad.watts / most.number) if pad.watts else 0
        return mend(
            "The pad gives {p} on its area; {p_pad} is what cells stand.",
            "Above that the cell that lies on it ages faster than its neighbours, and drifts away from them.",
            {"p": dense, "p_pad": most},
            (Remedy(f"A pad of {enough} cm²", [set_value(f"{PAD}/area_cm2", enough)]),),
        )

    yield at_most("charging.pad", f"{PAD}/area_cm2", dense, most, hot)
