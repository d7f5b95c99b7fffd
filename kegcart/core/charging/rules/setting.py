"""How a source is set: its voltage, its profile, its end."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.charging.kinds import source_kind
from kegcart.core.charging.kinds.base import SourceSizing, in_series_figure
from kegcart.core.check import Check, at_least, at_most, held, is_so, mend, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.reference import assumption, chemistries, interpolate

NEARLY = 0.005
"""What a reached charge may fall short of its goal by, a share: rounding of set points."""


def judge_setting(sizing: SourceSizing) -> Iterator[Check]:
    """Every check of how one source is set."""
    yield chemistry(sizing)
    yield lead_profile(sizing)
    yield too_high(sizing)
    yield too_low(sizing)
    yield from board_ends(sizing)
    yield no_supervision(sizing)


def set_by_chemistry(sizing: SourceSizing) -> tuple[Remedy, ...]:
    """The voltage left to choice, where it was typed."""
    if sizing.source.set_v is None:
        return ()
    return (Remedy("Set it by chemistry and count", [release(f"{sizing.pointer}/set_v")]),)


@judges("charging.chemistry", "profile for its chemistry", STOP)
def chemistry(sizing: SourceSizing) -> Check:
    """A charger's profile is made for the chemistry that it charges.

    Source: set points differ by up to a fifth between chemistries (set points table).
    """
    source, row, at = sizing.source, sizing.charged.row, f"{sizing.pointer}/profile"
    # Lead is charged alike, but for some tenths of a volt that the set point is judged by.
    alike = (
        source.profile is None
        or source.profile == row.key
        or (row.kind == "lead" and source.profile in ("agm", "flooded", "starting"))
    )
    return is_so(
        "charging.chemistry",
        at,
        alike,
        lambda: stop(
            f"{source.name} is made for {chemistries()[source.profile or row.key].label}, and charges {row.label} to {{V_pack}}.",
            "A profile of another chemistry ends too high, or never: lithium that is overcharged burns, lead that is not filled dies.",
            {"V_pack": sizing.at_pack},
            (Remedy(f"A charger made for {row.label}", [release(at)]),),
        ),
    )


@judges("charging.lead-profile", "no lead tricks on lithium", STOP)
def lead_profile(sizing: SourceSizing) -> Check:
    """What charges lithium neither follows the temperature nor equalises.

    Source: temperature compensation and equalising are for lead (makers' sheets).
    """
    source, at = sizing.source, sizing.pointer
    wrong = [words for on, words in ((source.compensated, "follows the temperature"), (source.equalises, "equalises")) if on]
    patch = [
        set_value(f"{at}/{name}", False)
        for name, on in (("compensated", source.compensated), ("equalises", source.equalises))
        if on
    ]
    return is_so(
        "charging.lead-profile",
        at,
        sizing.charged.row.kind == "lead" or not wrong,
        lambda: stop(
            f"{source.name} {' and '.join(wrong)}, as is right for lead: {sizing.charged.row.label} set for {{V_pack}} sees more in the cold.",
            "Each such volt too many goes into cells that cannot take it, night after night.",
            {"V_pack": sizing.at_pack},
            (Remedy("Switch that off, or take a charger without it", patch),),
        ),
    )


@judges("charging.setpoint", "set point", STOP, MEND)
def too_high(sizing: SourceSizing) -> Check:
    """A source charges no higher than the cells of what it charges may stand.

    Source: greatest voltage of a cell (chemistries table), of lead its set point when boosted.
    """
    charged = sizing.charged
    most = charged.row.v_max if charged.row.kind == "lithium" else max(charged.row.v_max, charged.set_point("full").absorb_v)
    cell = charged.row.figure("v_max", most, "V", f"greatest voltage of a cell, {charged.row.label}")
    limit = Figure.by("V_max", "S · v_max", "V", f"{charged.name} stands at most", S=charged.series, v_max=cell)
    return at_most(
        "charging.setpoint",
        f"{sizing.pointer}/set_v",
        sizing.at_pack,
        limit,
        lambda: stop(
            f"{sizing.name} charges {charged.name} to {{V_pack}}; its cells stand {{V_max}}.",
            "Overcharged cells swell, vent and burn; what the board has to stop each night it will one night not stop.",
            {"V_pack": sizing.at_pack, "V_max": limit},
            set_by_chemistry(sizing),
        ),
        slack=1e-6,
    )


def reached(sizing: SourceSizing) -> Figure:
    """The charge that a bank reaches at the set point when the current has fallen to the tail, a share.

    Source: E(s) + I_tail · R = V_set, on the curve while it fills.
    """
    charged, row = sizing.charged, sizing.charged.row
    rested = (sizing.at_pack.number - sizing.tail.number * charged.resistance.number) / charged.series.number
    top = dict(row.filling)
    points = [(s, max(row.open_circuit(s), top.get(s, 0.0))) for s in sorted({*row.soc, *top})]
    charge = interpolate(rested, [v for _, v in points], [s for s, _ in points])
    inputs = {"V_pack": sizing.at_pack, "I_tail": sizing.tail, "R": charged.resistance, "S": charged.series}
    how = "where the curve of the filling cell, and the drop of the tail, come to the set point"
    return Figure.of("s_end", charge, "share", "charge reached at the tail", how=how, inputs=inputs)


@judges("charging.setpoint")
def too_low(sizing: SourceSizing) -> Check:
    """A source charges high enough to reach the top of the daily window.

    Source: daily window of the chemistry (chemistries table).
    """
    row = sizing.charged.row
    charge = reached(sizing)
    top = row.figure("s_top", row.window_high, "share", f"top of the daily window, {row.label}")
    if row.kind == "lead":  # its voltage says little of its charge: it is full when it has stood long at its set point
        least = Figure.by(
            "V_least",
            "S · v_fl",
            "V",
            "float",
            S=sizing.charged.series,
            v_fl=row.figure("v_fl", sizing.charged.set_point("daily").float_v or 0.0, "V", "float of a cell"),
        )
        figure, limit = sizing.at_pack, least
    else:
        figure, limit = charge, top
    return at_least(
        "charging.setpoint",
        f"{sizing.pointer}/set_v",
        figure,
        limit,
        lambda: mend(
            f"{sizing.name} charges to {{V_pack}}: {sizing.charged.name} reaches {{s}} of its {{top}}.",
            "What is never filled is never balanced either, and the capacity that was paid for stays unused.",
            {"V_pack": sizing.at_pack, "s": figure, "top": limit},
            set_by_chemistry(sizing),
        ),
        slack=NEARLY,
    )


@judges("charging.board-ends", "ended by the charger, not the board", MEND)
def board_ends(sizing: SourceSizing) -> Iterator[Check]:
    """A charge ends by its charger, below the voltage at which the board opens.

    Source: 50 mV a cell below the board's stop (assumptions table), as the groups of a pack spread.
    """
    charged = sizing.charged
    if charged.stop_v is None:
        return
    of = {"S": charged.series, "v_stop": charged.stop_v, "ΔV_b": assumption("board_headroom")}
    limit = Figure.by("V_ends", "S · (v_stop − ΔV_b)", "V", "up to here the board stays closed", of)
    yield at_most(
        "charging.board-ends",
        f"{sizing.pointer}/set_v",
        sizing.at_pack,
        limit,
        lambda: mend(
            f"{sizing.name} charges {charged.name} to {{V_pack}}; from {{V_ends}} its board ends the charge by opening.",
            "Each charge then ends in a jump: the charger loses its battery, and what runs beside it sees the charger's open voltage.",
            {"V_pack": sizing.at_pack, "V_ends": limit},
            set_by_chemistry(sizing),
        ),
        slack=1e-6,
    )


@judges("charging.no-supervision", "an end to the charge", STOP)
def no_supervision(sizing: SourceSizing) -> Check:
    """A charge ends: by its current, by a timer; and what holds it then, holds it where the chemistry may be held for good.

    Source: practice: lithium is not held at its set point; float voltages of the set points table.
    """
    source, charged, at = sizing.source, sizing.charged, f"{sizing.pointer}/ends"
    ends = source.ends or source_kind(source).facts.ends
    row = charged.set_point("daily")
    cell = charged.row.figure("v_hold", row.float_v or row.recharge_v, "V", "a cell may be held at that for good")
    limit = Figure.by("V_hold", "S · v_hold", "V", f"{charged.name} may be held at", S=charged.series, v_hold=cell)
    units = source_kind(source).units(source)[0]
    hold = limit.number / units + sizing.drop.number
    low = float(f"{hold - 0.005:.2f}")
    if ends == "never":
        return at_most(
            "charging.no-supervision",
            at,
            sizing.at_pack,
            limit,
            lambda: stop(
                f"Nothing ends what {source.name} does: it holds {charged.name} at {{V_pack}} as long as it is connected; {{V_hold}} it may be held at.",
                "Held full, lithium ages fast and plates; a cell that drifts is pushed over its limit with nobody there. Never leave it alone.",
                {"V_pack": sizing.at_pack, "V_hold": limit},
                (
                    Remedy("A timer that ends it", [set_value(at, "time")]),
                    Remedy("A charger that ends at its tail", [set_value(at, "its current")]),
                    Remedy(f"Hold it at {low:g} V, and do without the rest", [set_value(f"{sizing.pointer}/set_v", low)]),
                ),
            ),
            slack=1e-6,
        )
    if sizing.held is None:
        return held("charging.no-supervision", at)
    holds = Figure.by(
        "V_held",
        "n · (V_float − V_diode)",
        "V",
        "held there when full",
        n=in_series_figure(units),
        V_float=sizing.held,
        V_diode=sizing.drop,
    )
    place = f"{sizing.pointer}/float_v"
    return at_most(
        "charging.no-supervision",
        place,
        holds,
        limit,
        lambda: stop(
            f"Once it is full, {source.name} holds {charged.name} at {{V_held}}; {{V_hold}} it may be held at for good.",
            "What is held too high never ends being charged: lithium plates and swells, lead dries out.",
            {"V_held": holds, "V_hold": limit},
            (Remedy("Hold it as its chemistry may be held", [release(place)]),),
        ),
        slack=1e-6,
    )
