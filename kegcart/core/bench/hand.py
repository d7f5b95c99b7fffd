"""What a few readings by hand say, taken with one meter and a watch: a joint by its like, a rise by three temperatures, a sag by three voltages."""

from collections.abc import Mapping, Sequence
from math import log
from statistics import median
from typing import Any

from kegcart.core.assess import Assessment
from kegcart.core.bench.learn.heat import settled_rise
from kegcart.core.bench.learn.meters import bad_by_its_like, joint_resistance
from kegcart.core.bench.learn.resistance import late_part
from kegcart.core.bench.station import BenchStation, station_of
from kegcart.core.figure import Figure, write_figure
from kegcart.core.reference import constant
from kegcart.core.reference.bench import meter_of


def by_hand(assessment: Assessment, kind: str, values: Mapping[str, float], drops: Sequence[float]) -> dict[str, Any]:
    """What readings by hand say, as plain JSON data: figures, and of joints each with whether it is bad. Errors: RefusedError."""
    if kind == "joints":
        return joints(values["amps"], drops)
    figures = rise(values) if kind == "rise" else sag(station_of(assessment), values)
    return {"figures": [write_figure(figure, top=True) for figure in figures], "joints": []}


def joints(amps: float, drops_mv: Sequence[float]) -> dict[str, Any]:
    """Joints of one lug and stud under one current: each by its drop, and held against its like. Errors: RefusedError.

    Source: practice: a joint is bad by its like, more than twice their median, not by an absolute limit.
    """
    ohms = [joint_resistance(amps, mv / 1000) for mv in drops_mv]
    flow = Figure.of("I", amps, "A", "current through them")
    rows = []
    for mv, ohm, bad in zip(drops_mv, ohms, bad_by_its_like(ohms), strict=True):
        drop = Figure.of("U", mv / 1000, "V", "drop over the joint, probe to probe")
        resists = Figure.by("R", "U / I", "Ω", "joint", U=drop, I=flow)
        heat = Figure.by("P", "I^2 · R", "W", "heat in it", I=flow, R=resists)
        assert abs(resists.number - ohm) <= 1e-12
        rows.append({"ohm": write_figure(resists, top=True), "heat": write_figure(heat, top=True), "bad": bad})
    middle = Figure.of("R_m", median(ohms), "Ω", "their median", how="half of them resist less")
    most = Figure.by("R_most", "k · R_m", "Ω", "bad from here on", k=Figure.of("k", constant("worse_than_like"), "×"), R_m=middle)
    return {"figures": [write_figure(figure, top=True) for figure in (middle, most)], "joints": rows}


def rise(values: Mapping[str, float]) -> list[Figure]:
    """Where a temperature settles, by three readings at equal intervals under one load. Errors: RefusedError."""
    first, second, third = (values[name] - values["around"] for name in ("first", "second", "third"))
    rises = first, second, third
    every_s = values["every"] * 60
    settled_rise(rises, every_s, meter_of("air.c").step)  # refuses what does not carry it
    inputs = {f"T_{n}": Figure.of(f"T_{n}", kelvin, "K", f"rise, reading {n}") for n, kelvin in enumerate(rises, 1)}
    ends = Figure.by("ΔT", "(T_2^2 − T_1 · T_3) / (2 · T_2 − T_1 − T_3)", "K", "it settles so far above its surroundings", inputs)
    tau = Figure.of(
        "τ",
        every_s / log((second - first) / (third - second)) / 60,
        "min",
        "time constant",
        how="Δt / ln((T_2 − T_1) / (T_3 − T_2)): two thirds of the way are gone after it",
        inputs=inputs,
    )
    if values.get("watts", 0) <= 0:
        return [ends, tau]
    heat = Figure.of("P", values["watts"], "W", "heat made in it")
    return [ends, tau, Figure.by("R", "ΔT / P", "K/W", "for each watt", {"ΔT": ends, "P": heat})]


def sag(station: BenchStation, values: Mapping[str, float]) -> list[Figure]:
    """The parts of the pack's resistance, by what it sagged 1, 60 and 300 s after a step of current. Errors: RefusedError."""
    amps, rested = values["amps"], values["rested"]
    k = slope_at(station, rested)
    sags = rested - values["early"], rested - values["middle"], rested - values["late"]
    at_once, late, tau = late_part(amps, sags, k)
    inputs = {
        "I": Figure.of("I", amps, "A", "step of current"),
        **{f"d_{t}": Figure.of(f"d_{t}", d, "V", f"below rest after {t} s") for t, d in zip((1, 60, 300), sags, strict=True)},
        "k": Figure.of("k", k, "V/Ah", "the rested curve falls by so much", how="slope of the design's curve at this voltage"),
    }
    how = "what the rested voltage falls by, k·I·t, is taken off first; then the three are one course that levels off"

    def part(symbol: str, value: float, unit: str, label: str) -> Figure:
        return Figure.of(symbol, value, unit, label, how=how, inputs=inputs)

    whole = part("R", at_once + late, "Ω", "resistance of the pack")
    return [
        whole,
        part("R_0", at_once, "Ω", "of it at once"),
        part("R_1", late, "Ω", "of it late"),
        part("s", late / (at_once + late), "share", "share that comes late"),
        part("τ", tau, "s", "time constant of the late part"),
    ]


def slope_at(station: BenchStation, rested_v: float) -> float:
    """By how much the pack's rested voltage falls for each Ah at a voltage, V/Ah. Source: slope of the design's curve over 10 % of charge."""
    bank = station.lane.banks[0]

    def volts(charge: float) -> float:
        return sum(g.cells * bank.cell_voltage(g, charge) for g in bank.groups)

    low, high = 0.0, 1.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if volts(middle) < rested_v else (low, middle)
    top = min(1.0, max(0.1, high + 0.05))
    return (volts(top) - volts(top - 0.1)) / (0.1 * bank.capacity_ah)
