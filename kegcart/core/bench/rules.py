"""What the days, simulated, say of the station: is every load fed, does nothing trip or drop, is it full again."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import Bound, Check, Fault, Verdict, at_least, at_most, mend, not_yet, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy
from kegcart.core.simulation.run import Course
from kegcart.core.units import day_and_hour

BRIEFLY_H = 1 / 60
"""Less than a minute without power is a start or a switch, not a dark load."""


@dataclass(frozen=True, slots=True)
class Foreseen:
    """One season as it was simulated.

    season: in words. place: pointer of the temperature that it stands for. full: the charge that counts as full again; None
    where there are no hours to charge in. reached: the charge that is held against it. missing: what must be known, or mended, before that can be judged. dark: hours without power of the loads that found none, by id. inside: what the brief
    allows for inside. cures: by id of a check, changes that were tried out by simulating them, and end its finding. works: whether
    anything runs at all, board and meter apart.
    """

    season: str
    place: str
    course: Course
    figures: Mapping[str, Figure]
    full: Figure | None
    reached: Figure
    missing: str
    dark: Mapping[str, Figure]
    cures: Mapping[str, tuple[Remedy, ...]]
    works: bool


def judge_days(seen: Foreseen) -> Iterator[Check]:
    """Every check of one season; where nothing runs, nothing is said to hold."""
    if not seen.works:
        for id in ("bench.trip", "bench.dark", "bench.hiccup", "charging.window"):
            yield not_yet(id, seen.place, "a load that runs")
        return
    yield from nothing_trips(seen)
    if not seen.dark:
        yield Check("bench.dark", seen.place, "bench", Verdict.HOLDS, seen.figures["dark"], briefly(), Bound.MOST)
    yield from nothing_hiccups(seen)
    yield from full_again(seen)


def because(course: Course, *kinds: str) -> str:
    """The first event of some kinds as a sentence of its own; empty where there is none."""
    event = next((event for event in course.events if event.kind in kinds), None)
    return f" {event.text[0].upper()}{event.text[1:]}, {day_and_hour(event.hour)}." if event else ""


@judges("bench.trip", "what trips in use", STOP)
def nothing_trips(seen: Foreseen) -> Iterator[Check]:
    """Over the days nothing trips on overload: no inverter, and no board, neither by what goes out nor by what comes in.

    Source: simulated over the days of the bench, with what each stands for how long (makers' sheets).
    """
    trips = seen.figures["trips"]
    none = Figure.of("n_0", 0, "", "trips allowed", how="in ordinary use nothing trips")

    def fault() -> Fault:
        return stop(
            f"In the {seen.season} it trips {{n}} times.{because(seen.course, 'trip')}",
            "What trips in ordinary use leaves its loads without power until somebody comes.",
            {"n": trips},
            seen.cures.get("bench.trip", ()),
        )

    yield at_most("bench.trip", seen.place, trips, none, fault)


def briefly() -> Figure:
    """How long a load may be without power, h."""
    return Figure.of("t_0", BRIEFLY_H, "h", "allowed", how="less than a minute is a start or a switch")


@judges("bench.dark", "loads without power", STOP)
def every_load_is_fed(seasons: Sequence[Foreseen], names: Mapping[str, str]) -> Iterator[Check]:
    """Over the days every load finds power whenever it is switched on; one that does not is told where it is, for both seasons.

    names: of the loads, by id.
    Source: simulated over the days of the bench: cut-offs, locks and trips act as they are decided.
    """
    for key in sorted({key for seen in seasons for key in seen.dark}):
        worst = max((seen for seen in seasons if key in seen.dark), key=lambda seen: seen.dark[key].number)
        others = [seen.season for seen in seasons if key in seen.dark and seen is not worst]

        def fault(key: str = key, worst: Foreseen = worst, others: Sequence[str] = tuple(others)) -> Fault:
            also = f", and for a while in the {others[0]}" if others else ""
            return stop(
                f"{names[key]}: without power for {{t_dark}} in the {worst.season}{also}."
                f"{because(worst.course, 'cutoff', 'trip')}",
                "The energy on paper is not what arrives: sag, cold and cut-offs take their part.",
                {"t_dark": worst.dark[key]},
                worst.cures.get("bench.dark", ()),
            )

        yield at_most("bench.dark", f"/loads/items/{key}", worst.dark[key], briefly(), fault, station="loads")


@judges("bench.hiccup", "what drops and comes back", MEND)
def nothing_hiccups(seen: Foreseen) -> Iterator[Check]:
    """What has cut off stays off until it is charged, and does not come back to drop again.

    Source: practice: a restart well above the cut-off; simulated over the days of the bench.
    """
    times = seen.figures["hiccups"]
    none = Figure.of("n_0", 0, "", "allowed", how="what has cut off stays off")

    def fault() -> Fault:
        return mend(
            f"In the {seen.season} something drops and comes back {{n}} times.{because(seen.course, 'again')}",
            "Each return hits every load with a start, wears contacts, and empties the pack below where it was to stop.",
            {"n": times},
            seen.cures.get("bench.hiccup", ()),
        )

    yield at_most("bench.hiccup", seen.place, times, none, fault)


@judges("charging.window", "full again", MEND)
def full_again(seen: Foreseen) -> Iterator[Check]:
    """It is as full as its daily window says: when it leaves the charger, or, where its sources have hours of their own, once in the last day.

    Source: simulated with taper, acceptance, and the locks of the board.
    """
    charge, full = seen.reached, seen.full
    if full is None:
        return
    if seen.missing:
        yield not_yet("charging.window", seen.place, seen.missing)
        return

    def fault() -> Fault:
        return mend(
            f"In the {seen.season} it is charged to {{s}}; {{s_full}} is the top of its daily window."
            f"{because(seen.course, 'lock')}",
            "Each day then begins with less than the one before.",
            {"s": charge, "s_full": full},
            seen.cures.get("charging.window", ()),
        )

    yield at_least("charging.window", seen.place, charge, full, fault, slack=0.005)
