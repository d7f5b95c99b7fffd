"""What is judged of the last load test of a build, and of what was measured of it."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from kegcart.core.assess import Assessment
from kegcart.core.bench.bands import TRACES
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import Check, Fault, at_most, failed, held, mend, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy
from kegcart.core.lane import BENCH_DAY, lane_as_sized, telling_of
from kegcart.core.measured import LABELS, OF_INVERTER, SAME, TELLING, TELLS, UNITS, MeasuredFigure, MeasuredFigures, MeasuredKey
from kegcart.core.units import calendar_day

NAMED = 3
"""So many readings or causes are named in a sentence."""
LEAST = 0.005
"""Of the likelihood: a cause that is less is not named."""
OFF = "(x_1 − x_2) / √(σ_1^2 + σ_2^2)"


@dataclass(frozen=True, slots=True)
class TestSaid:
    """A load test that is over: its id, its day, and what it said (`kegcart.core.bench.result.write_result`)."""

    key: str
    on: date
    said: Mapping[str, Any]

    @property
    def place(self) -> str:
        """Where it stands: a pointer of the bench."""
        return f"/bench/tests/{self.key}"


def judge_test(test: TestSaid, measured: MeasuredFigures) -> Iterator[Check]:
    """Every check of a load test. measured: what is in the design of what was measured."""
    yield within_lines(test)
    yield within_bands(test)
    for item in test.said["learned"]:
        if item["key"] in UNITS and not item["refused"]:
            yield as_designed(test, item, measured.get(item["key"]))


def read_back(written: Mapping[str, Any]) -> Figure:
    """A figure of what was written of a test."""
    return Figure.of(written["symbol"], written["value"], written["unit"], written.get("label", ""), how=written.get("how", ""))


@judges("bench.over-limit", "stop lines of the load test", STOP)
def within_lines(test: TestSaid) -> Check:
    """In the last load test nothing went beyond the line at which it is stopped.

    Source: limits of the design: cells, board, fuses, rises of joints; practice: two readings running.
    """
    stops: Sequence[Mapping[str, Any]] = test.said["stops"]
    if not stops:
        return held("bench.over-limit", test.place)
    first = stops[0]
    read, limit = read_back(first["read"]), read_back(first["limit"])
    where = f" ({first['where']})" if first["where"] else ""
    others = len(stops) - 1
    more = f" {others} more {'line was' if others == 1 else 'lines were'} reached." if others else ""
    fault = stop(
        f"In the load test of {calendar_day(test.on)} a stop line was reached, “{limit.label} {{x_stop}}”: {{x}} was read{where}.{more}",
        "Beyond such a line something is damaged or burns: it is not loaded again before the cause is found and the test is made again.",
        {"x": read, "x_stop": limit},
    )
    return failed("bench.over-limit", test.place, fault)


@judges("bench.out-of-band", "bands of the load test", MEND)
def within_bands(test: TestSaid) -> Check:
    """In the last load test every reading lay within its band round what the design would have read.

    Source: bands by what is uncertain of the station and its meters (doubts and meters tables); causes by how well each explains all
    readings.
    """
    off = [(step["key"], reading) for step in test.said["steps"] for reading in step["readings"] if reading["off"]]
    outside = Figure.of("n", len(off), "", "readings outside their bands", how="counted at the end of each step")
    none = Figure.of("n_0", 0, "", "allowed", how="the band is what may be off without a fault")

    def fault() -> Fault:
        labels = {trace.key: trace.label for trace in TRACES}
        names = dict.fromkeys(labels.get(r["name"], r["name"]) + (f" ({r['where']})" if r["where"] else "") for _, r in off)
        diagnosis = test.said["diagnosis"]
        able = [cause for cause in diagnosis["causes"][:NAMED] if cause["share"] >= LEAST]
        causes = [f"{cause['words']} ({cause['share']:.0%})" for cause in able]
        likely = f" Likeliest: {'; '.join(causes)}." if causes else " No single fault explains them: the design is off there."
        tells = diagnosis["next"]
        then = f" To tell the first apart: {tells['words']}." if tells and len(causes) > 1 else ""
        return mend(
            f"In the load test of {calendar_day(test.on)} {{n}} readings lie outside their bands: "
            f"{', '.join(list(names)[:NAMED])}{'…' if len(names) > NAMED else ''}.{likely}{then}",
            "What is off at the bench is off in use: a joint that drops more is a joint that warms, and a weak group ends every run.",
            {"n": outside},
        )

    return at_most("bench.out-of-band", test.place, outside, none, fault)


@judges("bench.model-differs", "measured against assumed", NOTE)
def as_designed(test: TestSaid, item: Mapping[str, Any], known: MeasuredFigure | None) -> Check:
    """What was measured lies no further from what the design assumes than both are uncertain, or stands in the design in its place.

    Source: two figures differ where |x₁ − x₂| > 2·√(σ₁² + σ₂²) (normal errors: one in twenty by chance).
    """
    key: MeasuredKey = item["key"]
    figures = {name: read_back(figure) for name, figure in item["figures"].items()}
    both = figures["combined"].number
    at = f"/bench/measured/{key}"
    if known is not None and abs(known.value - both) <= SAME * abs(both):
        return held("bench.model-differs", at)
    inputs = {
        "x_1": figures["assumed"],
        "x_2": figures["measured"],
        "σ_1": figures["assumed_doubt"],
        "σ_2": figures["measured_doubt"],
    }
    apart = Figure.by("d", f"max({OFF}, −({OFF}))", "×", "how far apart, in their uncertainty", inputs)
    most = Figure.of("d_0", 2.0, "×", "by chance", how="twice their uncertainty together")

    def fault() -> Fault:
        return note(
            f"The load test of {calendar_day(test.on)} found the {LABELS[key]} to be {{x_2}}; the design assumes {{x_1}}.",
            "Put it into the design as measured, and run time, sag and heat are those of this station; or find out why it differs.",
            {"x_1": figures["assumed"], "x_2": figures["measured"]},
        )

    return at_most("bench.model-differs", at, apart, most, fault)


def judge_measured(assessment: Assessment) -> Iterator[Check]:
    """Whether what was measured is still of the station as it is designed."""
    measured = assessment.design.bench.measured
    if not measured:
        return
    telling = telling_of(assessment, lane_as_sized(assessment, *BENCH_DAY, bare=True))
    for key, found in measured.items():
        now = telling.get(TELLS.get(key, key))
        if key in OF_INVERTER:
            inverter = assessment.power.inverters.get(found.part)
            now = inverter.rating.number if inverter else None
        yield still_stands(key, found, now)


@judges("bench.measured-anew", "measured figures that stand", NOTE)
def still_stands(key: MeasuredKey, found: MeasuredFigure, now: float | None) -> Check:
    """What was measured is still of what the design has: what the design says of that part is what it was when it was measured.

    Source: practice: a figure measured of one cable says nothing of the next.
    """
    at = f"/bench/measured/{key}"
    away = Remedy("Take the measured figure out", [{"op": "remove", "path": at}])
    value = Figure.decided("x", found.value, UNITS[key], LABELS[key], f"{at}/value")
    why = "It is not used any more: measure it again on the station as it is now, or take it out."
    if now is None:
        gone = note(f"The {LABELS[key]} was measured as {{x}}; the design has that part no more.", why, {"x": value}, [away])
        return failed("bench.measured-anew", at, gone)
    if found.stands_with is None:
        return held("bench.measured-anew", at)
    what, unit = TELLING[TELLS.get(key, key)]
    then = Figure.of("x_1", found.stands_with, unit, f"{what}, when it was measured")
    here = Figure.of("x_2", now, unit, f"{what}, now")
    inputs = {"x_1": then, "x_2": here}
    apart = Figure.by("d", "max(x_2 − x_1, x_1 − x_2) / x_1", "share", "how far the design has moved since", inputs)
    most = Figure.of("d_0", SAME, "share", "still the same part", how="1 %: more than rounding, less than the next size")

    def fault() -> Fault:
        return note(
            f"The {LABELS[key]} was measured as {{x}} when the design said {{x_1}} for the {what}; it says {{x_2}} now.",
            why,
            {"x": value, "x_1": then, "x_2": here},
            [away],
        )

    return at_most("bench.measured-anew", at, apart, most, fault)
