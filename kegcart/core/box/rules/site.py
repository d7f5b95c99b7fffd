"""Air, water and gas: vents and fans, sealing and holes where it is wet, hydrogen of lead, a way out for lithium."""

from collections.abc import Iterator
from math import dist

from kegcart.core.box.air import AIR, fan_opening, its_openings, opening_figure, openings, thermostat
from kegcart.core.box.document import Fitting
from kegcart.core.box.layout import BoxLayout, Fitted
from kegcart.core.box.moves import other_case
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import Check, at_least, is_so, mend, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Later, Remedy, set_value
from kegcart.core.pack.hydrogen import hydrogen_air, hydrogen_opening
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference import assumption, chemistries, constant
from kegcart.core.units import HOTTEST_C

OPENINGS = ("vent", "fan", "drain", "relief")
SPARKING = frozenset({"inverter", "switch", "relay", "protection", "ac_breaker"})
"""Kinds of body in which something sparks as it switches or opens."""
FACES_ACROSS = {"front": "back", "back": "front", "left": "right", "right": "left", "lid": "floor", "floor": "lid"}


def judge_site(sizing: BoxSizing, brief: Brief, site: Site, pack: PackSizing, power: PowerSizing) -> Iterator[Check]:
    """Openings for air, and what must not come in or stay in."""
    layout = sizing.layout
    yield from air_apart(layout)
    for key, fitting in layout.box.fittings.items():
        if fitting.kind == "fan" and fitting.starts == "thermostat":
            yield from fan_setting(key, fitting, site)
    if brief.exposure == "wet":
        yield tight_box(layout)
        for fitted in layout.fitted:
            yield from kept_dry(fitted)
    yield from relief(layout, pack)
    yield from hydrogen(layout, pack, power)


@judges("box.airflow")
def air_apart(layout: BoxLayout) -> Iterator[Check]:
    """Air comes in and goes out on different sides, low and high, half the box's length apart; a grille is as free as the fan behind.

    Source: 0.5 × box length (assumptions table); warm air rises.
    """
    air = openings(layout)
    fans = [f for f in air if f.fitting and f.fitting.kind == "fan"]
    if not fans:
        return
    for fan in fans:
        others = its_openings(fan, air)
        if not others:
            yield no_way_through(fan)
            continue
        best = max(others, key=lambda other: distance(fan, other))
        yield far_enough(fan, best, layout)
        yield on_other_sides(fan, others, layout)
        yield as_free(fan, others)


def distance(a: Fitted, b: Fitted) -> float:
    """How far two fittings are apart through the box, mm."""
    return dist(a.solid.middle, b.solid.middle)


@judges("box.airflow")
def no_way_through(fan: Fitted) -> Check:
    """Where a fan blows there is another opening, through which the air comes or goes.

    Source: what goes in must come out (continuity).
    """
    where = {
        "name": "Vent",
        "kind": "vent",
        "face": FACES_ACROSS[fan.face],
        "x_mm": fan.outline.x,
        "y_mm": max(40, fan.outline.y - 60),
    }
    vent = {**where, "width_mm": fan.outline.width, "height_mm": None if fan.outline.round else fan.outline.height}
    remedy = Remedy("Cut a vent across from it", [{"op": "add", "path": "/box/fittings/vent-across", "value": vent}])
    return is_so(
        "box.airflow",
        f"{fan.at}/blows",
        False,
        lambda: mend(
            f"{fan.name} has nowhere to blow: there is no other opening for its air.",
            "It churns, and carries nothing away.",
            {},
            (remedy,),
        ),
    )


@judges("box.airflow")
def far_enough(fan: Fitted, other: Fitted, layout: BoxLayout) -> Check:
    """In and out are half the length of the box apart.

    Source: 0.5 × box length (assumptions table).
    """
    apart = Figure.of("l", distance(fan, other), "mm", f"{fan.name} to {other.name}", how="straight through the box")
    length = Figure.of("L", layout.hollow.length, "mm", "length inside")
    least = Figure.by("l_min", "k_l · L", "mm", "between in and out", k_l=assumption("apart_share"), L=length)
    return at_least(
        "box.airflow",
        fan.at,
        apart,
        least,
        lambda: mend(
            f"{fan.name} and {other.name} are {{l}} apart; {{l_min}} is the least.",
            "The air goes round the short way and leaves the rest hot.",
            {"l": apart, "l_min": least},
            across(fan, other, layout),
        ),
    )


@judges("box.airflow")
def on_other_sides(fan: Fitted, others: list[Fitted], layout: BoxLayout) -> Check:
    """Air comes in on one side and goes out on another.

    Source: practice.
    """
    other = others[0]
    return is_so(
        "box.airflow",
        f"{fan.at}/face",
        any(o.face != fan.face for o in others),
        lambda: mend(
            f"{fan.name} and {other.name} are both in the {fan.face}: in and out on one side.",
            "What was blown out is sucked in again.",
            {},
            across(fan, other, layout),
        ),
    )


def across(fan: Fitted, other: Fitted, layout: BoxLayout) -> tuple[Remedy, ...]:
    """The opening moved to the face across from the fan."""
    width, _ = layout.hollow.extent(FACES_ACROSS[fan.face])
    values = {"face": FACES_ACROSS[fan.face], "x_mm": min(max(other.outline.x, 60.0), width - 60.0), "y_mm": other.outline.y}
    return (Remedy(f"Move {other.name} to the face across", [set_value(f"{other.at}/{name}", v) for name, v in values.items()]),)


@judges("box.airflow")
def as_free(fan: Fitted, others: list[Fitted]) -> Check:
    """The openings for a fan's air are together as free as the fan itself.

    Source: continuity; a grille is open by about six tenths (assumptions table).
    """
    assert fan.fitting is not None
    area = fan_opening(fan.fitting)
    have = opening_figure([o.fitting for o in others if o.fitting], "free opening for its air")
    vent = next((o for o in others if o.fitting and o.fitting.kind == "vent"), None)
    larger = (
        (Remedy(f"A grille of {area.text} free", [set_value(f"{vent.at}/free_cm2", round(area.number + 0.5))]),) if vent else ()
    )
    return at_least(
        "box.airflow",
        f"{fan.at}/flow_m3h",
        have,
        area,
        lambda: mend(
            f"{fan.name} opens {{A_fan}}; the openings for its air are free by {{A}}.",
            "A throttled fan moves a fraction of what its sheet says.",
            {"A_fan": area, "A": have},
            larger,
        ),
    )


@judges("box.fan-setting", "temperatures of a fan", MEND)
def fan_setting(key: str, fitting: Fitting, site: Site) -> Iterator[Check]:
    """A fan starts above the outside temperature and stops 5 K or more below that, still above outside.

    Source: 5 K or more between on and off (assumptions table); below the outside temperature no fan cools.
    """
    at, hot = f"/box/fittings/{key}", site.hot_c
    on, off = thermostat(at, fitting, site)
    gap = constant("fan_hysteresis")
    good = {"on_c": round(hot.number + 2 * gap), "off_c": round(hot.number + gap)}
    able = good["on_c"] <= HOTTEST_C
    patch = [set_value(f"{at}/{n}", v) for n, v in good.items()]
    mended = (Remedy("Start and stop it above the hottest outside", patch),) if able else ()
    yield at_least(
        "box.fan-setting",
        f"{at}/off_c",
        off,
        hot,
        lambda: mend(
            f"{fitting.name} stops at {{T_off}} only; on the hottest days it is {{T_max}} outside.",
            "It would run day and night, and cool nothing: the air it brings in is as warm.",
            {"T_off": off, "T_max": hot},
            mended,
        ),
    )
    between = Figure.by("ΔT", "T_on − T_off", "K", "between on and off", T_on=on, T_off=off)
    least = assumption("fan_hysteresis")
    yield at_least(
        "box.fan-setting",
        f"{at}/on_c",
        between,
        least,
        lambda: mend(
            f"{fitting.name} starts at {{T_on}} and stops at {{T_off}}: {{ΔT}} between; {{ΔT_min}} is the least.",
            "It starts and stops every minute, and wears its contact and your ears.",
            {"T_on": on, "T_off": off, "ΔT": between, "ΔT_min": least},
            mended,
        ),
    )


@judges("box.water", "holes and sealing where it is wet", MEND)
def tight_box(layout: BoxLayout) -> Check:
    """A box that is used where it is wet is splash-proof at least.

    Source: IEC 60529: IP54 against splashing from all sides.
    """
    return is_so(
        "box.water",
        "/box/case/sealing",
        layout.case.sealing != "none",
        lambda: mend(
            "The box is not sealed, and it is used where it is wet.",
            "Water stands in it before anybody looks.",
            {},
            Later(lambda: other_case(layout, lambda row: row.document["sealing"] != "none")),
        ),
    )


@judges("box.water")
def kept_dry(fitted: Fitted) -> Iterator[Check]:
    """Where it is wet there is no hole in lid or floor, and every fitting is splash-proof at least.

    Source: IEC 60529: IP54 against splashing from all sides.
    """
    drains = fitted.fitting is not None and fitted.fitting.kind == "drain"
    yield is_so(
        "box.water",
        f"{fitted.at}/face",
        fitted.face != "lid" and (fitted.face != "floor" or drains),
        lambda: mend(
            f"{fitted.name} is in the {fitted.face}: a hole where water stands.",
            "Rain collects on a lid, a wet deck on a floor; it finds each screw.",
            {},
            (Remedy("Put it in the back", [set_value(f"{fitted.at}/face", "back")]),),
        ),
    )
    label = "Take a splash-proof one" if fitted.fitting else "Give it a sealed boot or cap"
    yield is_so(
        "box.water",
        fitted.at,
        fitted.sealing != "none" or drains,
        lambda: mend(
            f"{fitted.name} is not sealed, and it is used where it is wet.",
            "Water behind a socket creeps along the wires to what is live.",
            {},
            (Remedy(label, [set_value(f"{fitted.at}/sealing", "splash")]),),
        ),
    )


@judges("box.relief", "a way out for gas", MEND)
def relief(layout: BoxLayout, pack: PackSizing) -> Iterator[Check]:
    """A box with lithium has a way out for gas, 2 cm² for each kWh, away from whoever carries it.

    Source: 2 cm² per kWh (assumptions table).
    """
    if pack.chemistry.kind == "lead":
        return
    ways = [f for f in layout.box.fittings.values() if f.kind in OPENINGS]
    have = opening_figure(ways, "free openings of the box")
    nominal = Figure.by("E", "C · V_nom", "Wh", "nominal energy", C=pack.build.capacity, V_nom=pack.v_nom)
    needed = Figure.by("A_min", "k_r · E / 1000", "cm²", "way out for gas", k_r=assumption("relief_per_kwh"), E=nominal)
    side = (needed.number + 0.5) / 0.7854
    value = {
        "kind": "relief",
        "name": "Relief panel",
        "face": "back",
        "x_mm": round(layout.hollow.length / 2),
        "y_mm": round(layout.hollow.height * 0.4),
        "width_mm": round(10 * side**0.5 + 1),
        "sealing": "splash",
    }
    yield at_least(
        "box.relief",
        "/box/fittings",
        have,
        needed,
        lambda: mend(
            "Openings of {A} let gas out of the box; {A_min} are asked for.",
            "A cell that fails blows out litres of hot gas: a tight box bursts, at its lid.",
            {"A": have, "A_min": needed},
            (Remedy("Give it a relief panel at the back", [{"op": "add", "path": "/box/fittings/relief", "value": value}]),),
        ),
    )


@judges("box.vent", "vents for hydrogen in the box", STOP)
def hydrogen(layout: BoxLayout, pack: PackSizing, power: PowerSizing) -> Iterator[Check]:
    """Lead in a box has openings for its hydrogen, in and out, and with flooded cells nothing that sparks in its space.

    Source: IEC 62485-2: Q = 0.05 · n · I_gas · C / 1000, opening 28 · Q (assumptions table); gassing current by chemistry.
    """
    lead = [("pack", "/box/places/pack", "The pack", pack.chemistry, pack.build.series, pack.build.capacity)]
    for key, bank in power.ctx.path.banks.items():
        at = f"/power/banks/{key}"
        series = Figure.decided("n", bank.series, "", "cells", f"{at}/series")
        capacity = Figure.decided("C", bank.capacity_ah, "Ah", "capacity", f"{at}/capacity_ah")
        lead.append((f"bank:{key}", f"/box/places/bank:{key}", bank.name, chemistries()[bank.chemistry], series, capacity))
    for key, at, name, row, series, capacity in lead:
        if row.kind != "lead" or row.gas_ma_ah is None or key not in layout.standing:
            continue
        yield opening_for(name, at, hydrogen_air(row, series, capacity), layout)
        if row.key in ("flooded", "starting"):
            yield from no_sparks(name, at, layout)


@judges("box.vent")
def opening_for(name: str, at: str, flow: Figure, layout: BoxLayout) -> Check:
    """Openings for hydrogen are as large as the air that must pass asks, in and out.

    Source: IEC 62485-2: 28 cm² for each m³/h, in and out (assumptions table).
    """
    needed = hydrogen_opening(flow)
    have = smaller_side(layout)
    return at_least(
        "box.vent",
        at,
        have,
        needed,
        lambda: stop(
            f"{name} gives off hydrogen: {{Q}} of air must pass, by openings of {{A_min}} in and out; there is {{A}}.",
            "Four parts of hydrogen in a hundred of air go off at a spark.",
            {"Q": flow, "A_min": needed, "A": have},
            (Remedy("Cut two vents, low and high", vents(layout, needed.number)),),
        ),
    )


def smaller_side(layout: BoxLayout) -> Figure:
    """Free opening of the vents in the lower or the upper half, whichever is less, cm²."""
    half = layout.hollow.height / 2
    ways = [f for f in layout.box.fittings.values() if f.kind in AIR]
    low = opening_figure([f for f in ways if f.face == "floor" or (f.face != "lid" and f.y_mm < half)], "free openings below")
    high = opening_figure([f for f in ways if f.face == "lid" or (f.face != "floor" and f.y_mm >= half)], "free openings above")
    return min(low, high, key=lambda figure: figure.number)


def vents(layout: BoxLayout, area_cm2: float) -> list[dict[str, object]]:
    """The operations that cut a vent low on the left and one high on the right, of so many cm² free each."""
    hollow, mm = layout.hollow, round(10 * (area_cm2 / constant("vent_free") / 0.785) ** 0.5 + 1)
    out: list[dict[str, object]] = []
    for key, face, high in (("vent-low", "left", False), ("vent-high", "right", True)):
        y = min(layout.split - mm / 2 - 10, hollow.height * 0.8) if high else mm / 2 + 10
        value = {"kind": "vent", "name": f"Vent, {'high' if high else 'low'}", "face": face, "width_mm": mm}
        out.append({"op": "add", "path": f"/box/fittings/{key}", "value": {**value, "x_mm": hollow.width / 2, "y_mm": round(y)}})
    return out


@judges("box.gas")
def no_sparks(name: str, at: str, layout: BoxLayout) -> Iterator[Check]:
    """With flooded cells there is no inverter, relay, switch or fuse in the same space.

    Source: practice with flooded lead: hydrogen collects under the lid.
    """
    sparking = [s for s in layout.standing.values() if s.thing.type and s.thing.type.key.split(":")[0] in SPARKING]
    first = sparking[0] if sparking else None
    others = f" and {len(sparking) - 1} more" if len(sparking) > 1 else ""
    yield is_so(
        "box.gas",
        f"{at}/on",
        first is None,
        lambda: stop(
            f"{name} gives off hydrogen in the space in which {first.thing.name if first else ''}{others} can spark.",
            "Flooded cells belong in a space of their own, vented to the outside.",
            {},
        ),
    )
