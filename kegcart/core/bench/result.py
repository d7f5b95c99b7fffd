"""What a test said of its station, written out: each figure as assumed, as measured and both together, and what would explain the readings."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from kegcart.core.bench.comparing import compare, expected_of, stops_reached, write_reached, write_step
from kegcart.core.bench.diagnose.explain import Cause, Diagnosis, diagnose
from kegcart.core.bench.learn.estimate import Doubted, combine, differ
from kegcart.core.bench.learn.station import Learned, learn
from kegcart.core.bench.readings import Readings
from kegcart.core.bench.station import BenchStation, Unknown
from kegcart.core.figure import Figure, write_figure

TOGETHER = "(x_1 / σ_1^2 + x_2 / σ_2^2) / (1 / σ_1^2 + 1 / σ_2^2)"


def learned_figures(item: Learned, unknown: Unknown) -> dict[str, Figure]:
    """A figure as assumed, as measured and both together, each with its uncertainty; only the first where the readings did not carry it."""

    def value(symbol: str, estimate: Doubted, label: str, how: str) -> dict[str, Figure]:
        return {
            "value": Figure.of(symbol, estimate.value, unknown.unit, f"{unknown.label}, {label}", how=how),
            "doubt": Figure.of(
                symbol.replace("x", "σ"), estimate.sigma, unknown.unit, f"how far it may be off, {label}", how=how
            ),
        }

    assumed = value("x_1", item.assumed, "assumed", "by the design, and how far figures of its kind are off (doubts table)")
    out = {"assumed": assumed["value"], "assumed_doubt": assumed["doubt"]}
    if item.measured is None:
        return out
    steps = ", ".join(item.rests_on)
    measured = value("x_2", item.measured, "measured", f"least squares over the readings of {steps}")
    inputs = {"x_1": assumed["value"], "σ_1": assumed["doubt"], "x_2": measured["value"], "σ_2": measured["doubt"]}
    alone = combine(item.assumed, item.measured)
    if abs(alone.value - item.combined.value) <= 1e-9 * abs(alone.value):
        both = Figure.by("x", TOGETHER, unknown.unit, unknown.label, inputs)
    else:
        how = "found with others at once: what is certain of one helps the others (precisions add)"
        both = Figure.of("x", item.combined.value, unknown.unit, unknown.label, how=how, inputs=inputs)
    doubt = Figure.of("σ", item.combined.sigma, unknown.unit, "how far it may be off", how="precisions add", inputs=inputs)
    return out | {"measured": measured["value"], "measured_doubt": measured["doubt"], "combined": both, "combined_doubt": doubt}


def write_learned(item: Learned, unknown: Unknown) -> dict[str, Any]:
    """One figure as plain JSON data. differs: what was measured lies further from what was assumed than both are uncertain."""
    return {
        "key": item.key,
        "label": unknown.label,
        "refused": item.refused,
        "rests_on": list(item.rests_on),
        "differs": item.measured is not None and differ(item.assumed, item.measured),
        "figures": {name: write_figure(figure, top=True) for name, figure in learned_figures(item, unknown).items()},
    }


def write_cause(cause: Cause) -> dict[str, Any]:
    """A cause as plain JSON data."""
    unit = "×" if cause.fault.unit == "share" else cause.fault.unit
    how = "the size that leaves least of all readings unexplained"
    return {
        "kind": cause.fault.kind,
        "which": cause.fault.which,
        "words": cause.fault.words,
        "share": cause.share,
        "amount": write_figure(Figure.of("δ", cause.amount, unit, "how much", how=how), top=True),
    }


def write_diagnosis(diagnosis: Diagnosis) -> dict[str, Any]:
    """What would explain the readings, as plain JSON data."""
    return {
        "causes": [write_cause(cause) for cause in diagnosis.causes],
        "alike": len(diagnosis.alike),
        "missing": diagnosis.missing,
        "next": None if diagnosis.next is None else {"key": diagnosis.next.key, "words": diagnosis.next.words},
    }


def write_result(
    station: BenchStation, lines: Mapping[str, Figure], readings: Readings, probed: Mapping[str, float] = MappingProxyType({})
) -> dict[str, Any]:
    """All that the readings of a test say, as plain JSON data. lines: at which it is stopped. probed: what was measured besides, see `diagnose`."""
    whole = readings.filled()
    able = whole.has("posts.v", "posts.a") and bool(whole.spans)
    return {
        "spans": [{"step": s.step, "begin_s": s.begin_s, "end_s": s.end_s, "ended": s.ended} for s in readings.spans],
        "steps": [write_step(step) for step in compare(station, whole, expected_of(station, whole))] if able else [],
        "stops": [write_reached(reached) for reached in stops_reached(lines, station, whole)] if able else [],
        "learned": [write_learned(item, station.unknowns[item.key]) for item in learn(station, readings)],
        "diagnosis": write_diagnosis(diagnose(station, readings, probed)),
    }
