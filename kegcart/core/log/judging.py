"""The one way in: a design and what was recorded of it -> how every step stands, and what is judged."""

from dataclasses import dataclass
from datetime import date
from typing import Any

from kegcart.core.assembly.sizing import AssemblySizing
from kegcart.core.bench.tested import TestSaid, judge_test
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.check import Check, write_check
from kegcart.core.figure import Figure, write_figure
from kegcart.core.finding import SEVERITY_ORDER, write_finding
from kegcart.core.log.bought import Bought, left_to_pay
from kegcart.core.log.record import Record
from kegcart.core.log.rules.steps import judge_record
from kegcart.core.log.standing import Standing, counted, standings
from kegcart.core.measured import MeasuredFigures
from kegcart.core.places import at_the_bench


@dataclass(frozen=True, slots=True, eq=False)
class LogJudged:
    """How every step of a build stands, in the order of assembly, what was judged of that, what was bought, and what is left to pay."""

    standing: dict[str, Standing]
    checks: list[Check]
    bought: Bought
    left: Figure


def judge_log(
    build: AssemblySizing,
    box: BoxSizing | None,
    record: Record,
    bought: Bought,
    today: date,
    test: TestSaid | None = None,
    measured: MeasuredFigures | None = None,
) -> LogJudged:
    """A build and what was recorded of it, judged on a day. Never raises on a record that was read.

    test: the last load test. measured: what of the tests stands in the design.
    """
    standing = standings(build, record, box)
    checks = list(judge_record(build, standing, today))
    if test is not None:
        checks += judge_test(test, measured or {})
    return LogJudged(standing, checks, bought, left_to_pay(build.shopping, bought))


def write_log(judged: LogJudged) -> dict[str, Any]:
    """What was judged as plain JSON data."""
    titles = {key: step.act.title for key, step in judged.standing.items()}
    findings = sorted((c.finding for c in judged.checks if c.finding), key=lambda f: SEVERITY_ORDER[f.severity])
    done = Figure.of("n", counted(judged.standing), "", "steps done", how="ticked, and resting on the design as it stands")
    return {
        "figures": {"assembly/done": write_figure(done, top=True), "assembly/left": write_figure(judged.left, top=True)},
        "bought": dict(judged.bought),
        "steps": [write_standing(step) for step in judged.standing.values()],
        "findings": [write_finding(finding, tried=True) for finding in findings],
        "checks": [
            write_check(check, titles.get(check.place.rsplit("/", 1)[1]) or at_the_bench(check.place)) for check in judged.checks
        ],
    }


def write_standing(step: Standing) -> dict[str, Any]:
    """How a step stands, and what was recorded of it."""
    tick = step.tick
    return {
        "act": step.act.key,
        "state": step.state,
        "digest": step.digest,
        "stopped_by": step.stopped_by,
        "outside": [measure.key for measure in step.outside],
        "done": tick.done if tick else False,
        "values": dict(tick.values) if tick else {},
        "remark": tick.remark if tick else "",
        "at": tick.at if tick else "",
    }
