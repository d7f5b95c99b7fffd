"""A test made ready to be run: its steps with their words and numbers, the lines at which it is stopped, what it is expected to read.

Plain data: it is kept with the run, so that a run is judged and shown again as it was begun, whatever becomes of the design.
"""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, fields
from typing import Any

from kegcart.core.assess import Assessment
from kegcart.core.bench.live import RunStep
from kegcart.core.bench.plan import PlanStep
from kegcart.core.bench.station import station_of
from kegcart.core.bench.test_plan import TestPlanner, plan_of_test, write_planned_step
from kegcart.core.bench.watch import Watch
from kegcart.core.design import DesignError
from kegcart.core.figure import write_figure

BY_HAND = ("surge", "trip")
"""Steps that no load does by itself."""


def prepare(assessment: Assessment, keys: Sequence[str] = ()) -> dict[str, Any]:
    """The test of a design as plain JSON data, its steps as they are asked for; all of them in their order where none are.

    Errors: DesignError, where there is nothing to test, or no such step.
    """
    planned = {step.key: step for step in plan_of_test(assessment).steps}
    if not planned:
        raise DesignError([("", "nothing can be tested yet: put in loads, and lay out their path")])
    if unknown := [key for key in keys if key not in planned]:
        raise DesignError([("/steps", f"'{unknown[0][:40]}' is no step of the test")])
    steps = [planned[key] for key in keys or planned]
    planner = TestPlanner(assessment)
    station, lines = planner.station, dict(planner.stop_lines())
    return {
        "steps": [
            {
                **write_planned_step(step),
                **{name: getattr(step.run, name) for name in ("act", "watts", "seconds", "until")},
                "confirm": bool(step.caution) or step.run.act in BY_HAND,
                "setting": asdict(step.run.setting(station)),
            }
            for step in steps
        ],
        "lines": {key: write_figure(line, top=True) for key, line in lines.items()},
        "limits": {key: line.number for key, line in lines.items()},
        "points": [point.name for point in station.points],
        "cells": to_be_read(assessment)[0],
        "courses": expected(planner, [], [step.run for step in steps], None),
    }


def to_be_read(assessment: Assessment) -> tuple[int, int]:
    """How many cells in series a logger can read, none of a lead battery, and how many parts a thermometer on the main path."""
    station = station_of(assessment)
    closed = assessment.pack.chemistry.kind == "lead"
    return 0 if closed else sum(round(g.cells) for g in station.lane.banks[0].groups), len(station.points)


def expected(
    planner: TestPlanner, as_run: Sequence[PlanStep], to_come: Sequence[PlanStep], outside_c: float | None
) -> list[dict[str, Any]]:
    """What the steps to come would read after those that were run, as plain JSON data."""
    from kegcart.core.bench.course import courses_of, write_course_of_step  # with the compiler of the simulation

    return [write_course_of_step(course) for course in courses_of(planner.station, as_run, to_come, outside_c)]


def expected_now(
    assessment: Assessment, as_run: Sequence[Mapping[str, Any]], to_come: Sequence[Mapping[str, Any]], outside_c: float | None
) -> list[dict[str, Any]]:
    """The same for a test that is under way: steps as plain data, those that were run with the load and the time that they truly had."""
    ours, theirs = ([plan_step(step) for step in steps] for steps in (as_run, to_come))
    return expected(TestPlanner(assessment), ours, theirs, outside_c)


def plan_step(step: Mapping[str, Any]) -> PlanStep:
    """A step of the plan out of plain data that may say more."""
    return PlanStep(**{field.name: step[field.name] for field in fields(PlanStep)})


def run_steps(prepared: Mapping[str, Any]) -> list[RunStep]:
    """The steps of a test that was made ready."""
    return [RunStep(**{field.name: step[field.name] for field in fields(RunStep)}) for step in prepared["steps"]]


def watch_of(prepared: Mapping[str, Any]) -> Watch:
    """The lines of a test that was made ready, watched."""
    return Watch(prepared["limits"], prepared["points"])
