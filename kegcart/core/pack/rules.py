"""Findings on the pack that need no power path."""

from collections.abc import Iterator

from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy, Severity, release, set_value
from kegcart.core.pack.sizing import CLASS_SERIES, PackSizing
from kegcart.core.reference import assumption


def judge_pack(pack: PackSizing) -> Iterator[Finding]:
    window = pack.chemistry.window_high - pack.chemistry.window_low
    if pack.depth.number > window + 1e-9:
        yield depth(pack, window)
    if pack.cold_factor.number < 0.97:
        yield cold_capacity(pack)
    if pack.v_max.number > assumption("touch_voltage").number:
        yield voltage_over_60(pack)


def depth(pack: PackSizing, window: float) -> Finding:
    row = pack.chemistry
    return Finding(
        "pack.depth",
        "pack",
        Severity.MEND,
        "/pack/depth",
        f"Planned to {{DoD}} depth of discharge; {row.label} is used over {{window}} a day.",
        "Cells taken to the ends of their charge every day wear out early.",
        {"DoD": pack.depth, "window": row.figure("w", window, "share", f"daily window of {row.label}")},
        (Remedy(f"Plan for the daily window, {window * 100:.0f} %", [release("/pack/depth")]),),
    )


def cold_capacity(pack: PackSizing) -> Finding:
    lost = Figure.of(
        "E_cold",
        pack.usable_warm.number - pack.usable.number,
        "Wh",
        "taken by the cold",
        formula="E_warm − E_use",
        inputs={"E_warm": pack.usable_warm, "E_use": pack.usable},
    )
    return Finding(
        "pack.cold-capacity",
        "pack",
        Severity.NOTE,
        "/brief/site_min_c",
        "At {T_min} the cold takes {E_cold} of the usable energy.",
        "Cold cells give less and sag more; the figures here already count it.",
        {"T_min": (pack.cold_factor.inputs or {})["T_min"], "E_cold": lost},
    )


def voltage_over_60(pack: PackSizing) -> Finding:
    row, limit = pack.chemistry, assumption("touch_voltage")
    most = max(s for s in CLASS_SERIES[row.key].values() if s * row.v_max <= limit.number)
    return Finding(
        "pack.voltage-over-60",
        "pack",
        Severity.STOP,
        "/pack/series",
        "Charged, the pack stands at {V_max}, above {U_t} DC.",
        "Above 60 V DC touching is dangerous: that is outside what can be planned here without licensed practice.",
        {"V_max": pack.v_max, "U_t": limit},
        (Remedy(f"{most} cells in series, {most * row.v_max:.1f} V charged", [set_value("/pack/series", most)]),),
    )
