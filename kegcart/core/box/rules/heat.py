"""What the days, simulated, say of the heat in the box: cells, what charges them, inverters, parts in hot air, the allowance of the brief."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from kegcart.core.box.air import FanSizing
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import Bound, Check, Fault, at_least, at_most, compared, held, mend, not_yet, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy
from kegcart.core.reference import assumption, constant

ALLOWANCE = "/brief/inside_rise_k"
Cures = Mapping[str, tuple[Remedy, ...]]


@dataclass(frozen=True, slots=True)
class CellsSeen:
    """A bank in one season. place: of the bank; charged_at: of what charges it. charging: how warm it was when it was to be charged;
    None where nothing charges it. locked: whether its board ends a charge in the heat."""

    name: str
    place: str
    charged_at: str
    hottest: Figure
    charging: Figure | None
    charge_max: Figure
    locked: bool


@dataclass(frozen=True, slots=True)
class InverterSeen:
    """An inverter when it was loaded the most for what it holds in the air inside: what was asked and what it held, VA; when."""

    name: str
    place: str
    asked: Figure
    holds: Figure
    air: Figure
    when: str


@dataclass(frozen=True, slots=True)
class Warmed:
    """One season as it was simulated, for its heat: in words, the hottest air inside and when that was."""

    season: str
    inside: Figure
    when: str
    cells: Sequence[CellsSeen] = ()
    inverters: Sequence[InverterSeen] = ()


@dataclass(frozen=True, slots=True)
class InTheBox:
    """What the heat of both seasons is held against.

    allowed: what the brief allows for inside, °C; assumed: whether that is the typical allowance. chosen: whether a box is. in_sun:
    whether it stands in the sun; None where nobody said. most: of the part inside that stands the least heat, its name, its place and
    the hottest air for it. fans: with what they move, and what must be in the worst hour, m³/h. worse: what no longer holds where the
    hottest air inside is put in for the allowance. cures: by id, changes that were tried out.
    """

    allowed: Figure
    assumed: bool
    chosen: bool
    in_sun: bool | None
    most: tuple[str, str, Figure] | None
    needed: Figure | None = None
    fans: Mapping[str, FanSizing] = field(default_factory=dict)
    moved: Figure | None = None
    worse: Sequence[Finding] = ()
    cures: Cures = field(default_factory=dict)


def judge_heat(seasons: Sequence[Warmed], box: InTheBox) -> Iterator[Check]:
    """Every check of the heat over both seasons; each is told once, of the season in which it is worst."""
    if not box.chosen:
        yield not_yet("box.heat", "/box", "a box to put it in")
    elif box.in_sun is None:
        yield not_yet("box.heat", "/box/case/in_sun", "whether it stands in the sun")
    for banks in zip(*(season.cells for season in seasons), strict=True):
        yield cells_stay_cool(seasons, banks, box)
        yield from charged_cool(seasons, banks, box)
    for inverters in zip(*(season.inverters for season in seasons), strict=True):
        yield holds_what_is_asked(seasons, inverters, box)
    hottest = max(seasons, key=lambda season: season.inside.number)
    if box.most is not None:
        yield air_for_parts(hottest, box.most, box)
    yield as_allowed(hottest, box)
    if box.fans:
        yield fans_carry_it(hottest, box)


def judge_nothing(chosen: bool) -> Iterator[Check]:
    """That nothing can be said of the heat where nothing runs."""
    for id in ("box.heat", "box.inside-allowance"):
        yield not_yet(id, "/box/case" if chosen else "/box", "a load that runs")


@judges("box.heat", "heat of cells and parts", STOP, MEND)
def cells_stay_cool(seasons: Sequence[Warmed], banks: Sequence[CellsSeen], box: InTheBox) -> Check:
    """The cells stay below the temperature that they stand.

    Source: simulated from the losses, the box and the surface of the cells; limit of cells typical of their sheets (assumptions table).
    """
    n, bank = max(enumerate(banks), key=lambda at: at[1].hottest.number)
    limit = assumption("cell_hottest")
    return at_most(
        "box.heat",
        bank.place,
        bank.hottest,
        limit,
        lambda: stop(
            f"In the {seasons[n].season} {bank.name} reaches {{T_pack}}; {{T_cell}} is what its cells stand.",
            "Hot cells age in weeks, and where one fails the heat takes its neighbours along.",
            {"T_pack": bank.hottest, "T_cell": limit},
            box.cures.get("box.heat", ()),
        ),
    )


@judges("box.heat")
def charged_cool(seasons: Sequence[Warmed], banks: Sequence[CellsSeen], box: InTheBox) -> Iterator[Check]:
    """Nothing charges cells above the temperature up to which they may be charged, nor waits for them to cool.

    Source: simulated; temperatures of charging by chemistry (chemistries table).
    """
    n, bank = max(enumerate(banks), key=lambda at: at[1].charging.number if at[1].charging else -1e9)
    if bank.charging is None:
        return
    figures = {"T": bank.charging, "T_ch": bank.charge_max}
    said = f"In the {seasons[n].season} {bank.name} is at {{T}} when it is to be charged; above {{T_ch}} "

    def fault() -> Fault:
        cures = box.cures.get("box.heat", ())
        if bank.locked:
            why = "It stays as empty as it is until it has cooled, and the next day begins with less."
            return mend(f"{said}its board lets nothing in.", why, figures, cures)
        why = "A charge in the heat ages cells faster than anything else, and swells them."
        return stop(f"{said}it must not be, and nothing stops it.", why, figures, cures)

    yield at_most("box.heat", bank.charged_at, bank.charging, bank.charge_max, fault)


@judges("box.heat")
def holds_what_is_asked(seasons: Sequence[Warmed], inverters: Sequence[InverterSeen], box: InTheBox) -> Check:
    """An inverter gives what is asked of it for long also in the air that it has at that hour.

    Source: derated by so much for each kelvin above 40 °C (makers' sheets, assumptions table); simulated hour by hour.
    """
    n, seen = max(enumerate(inverters), key=lambda at: at[1].asked.number / at[1].holds.number if at[1].asked.number else 0.0)
    return at_least(
        "box.heat",
        seen.place,
        seen.holds,
        seen.asked,
        lambda: mend(
            f"{seen.name} holds {{S_T}} in air of {{T}}, in the {seasons[n].season} {seen.when}; {{S}} are asked of it then.",
            "What gives more than it holds in the heat switches off when it is needed the most.",
            {"S_T": seen.holds, "T": seen.air, "S": seen.asked},
            box.cures.get("box.heat", ()),
        ),
    )


@judges("box.heat")
def air_for_parts(season: Warmed, most: tuple[str, str, Figure], box: InTheBox) -> Check:
    """The air inside is no hotter than the part that stands the least of it works in.

    Source: ranges of datasheets by kind of part (bodies table); 60 °C for what can be touched (assumptions table).
    """
    name, place, limit = most
    return at_most(
        "box.heat",
        place,
        season.inside,
        limit,
        lambda: stop(
            f"In the {season.season} the air inside reaches {{T}} {season.when}; {name} works in air of up to {{T_most}}.",
            "Electronics in air that is too hot switch off first, and fail for good some summers later.",
            {"T": season.inside, "T_most": limit},
            box.cures.get("box.heat", ()),
        ),
    )


@judges("box.inside-allowance", "inside temperature that sizes were chosen for", NOTE, MEND, STOP)
def as_allowed(season: Warmed, box: InTheBox) -> Check:
    """The air inside is as hot as what fuses, cables and connectors were sized for: no hotter, and not much cooler where that was a guess.

    Source: simulated from the losses, the box and the sun; the brief's allowance is what every size was derated for.
    """
    over = season.inside.number > box.allowed.number + constant("inside_slack")
    under = box.assumed and box.chosen and season.inside.number < box.allowed.number - constant("inside_spare")
    figures = {"T": season.inside, "T_in": box.allowed}
    cures = box.cures.get("box.inside-allowance", ())

    def fault() -> Fault:
        if not over:
            why = "Sizes chosen for hotter air than there will be are heavier and dearer than they must be; nothing is unsafe."
            return note("Worked out, it is {T} inside at the hottest; sizes were chosen for {T_in}.", why, figures, cures)
        said = f"In the {season.season} it is {{T}} inside {season.when}; sizes were chosen for {{T_in}}."
        if box.worse:
            also = f" And {len(box.worse) - 1} more." if len(box.worse) > 1 else ""
            return stop(f"{said} What fails at that: {box.worse[0].text}{also}", WHY_HOT, figures, cures)
        return mend(said, WHY_HOT, figures, cures)

    return compared("box.inside-allowance", ALLOWANCE, not (over or under), season.inside, box.allowed, Bound.MOST, fault)


WHY_HOT = "In hotter air a fuse opens early, and a cable carries less than it was given."


@judges("box.airflow")
def fans_carry_it(season: Warmed, box: InTheBox) -> Check:
    """Where it grows too hot inside, that is not because the fans are too small for what heat there is.

    Source: V̇ = Q / (ρ · c · ΔT) for the worst hour, less what the walls pass on; half of the free-air flow through grilles (assumptions
    table).
    """
    assert box.moved is not None
    if box.needed is None or season.inside.number <= box.allowed.number + constant("inside_slack"):
        return held("box.airflow", "/box/fittings")
    needed, moved = box.needed, box.moved
    return at_least(
        "box.airflow",
        "/box/fittings",
        moved,
        needed,
        lambda: mend(
            "The fans move {V} through the box; for {T_in} inside {V_min} must pass in the worst hour.",
            "A fan that is too small runs all day, and the box grows as hot as without.",
            {"V": moved, "V_min": needed, "T_in": box.allowed},
            box.cures.get("box.airflow", ()),
        ),
    )
