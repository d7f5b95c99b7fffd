"""Load tests of true stations as they are stored, without waiting for them: as files, and as an archive that any server takes in."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np

from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.run_file import RunFile, write_run_csv, write_run_file
from kegcart.core.bench.station import station_of
from kegcart.core.bench.test_plan import plan_of_test
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth
from kegcart.workbench.archive import write_archive
from tests.core.samples import judge


@dataclass(frozen=True, slots=True)
class TrialRun:
    """A load test as its files have it, and what was true of the station."""

    file: dict[str, Any]
    readings: str
    true: dict[str, float]

    def archive(self) -> bytes:
        """An archive of the build with this test."""
        with write_archive(self.file["design"], [], [(self.file, self.readings)]) as file:
            return file.read()


def trial_run(document: dict[str, Any], hidden: Truth, seed: int = 3, left_out: tuple[str, ...] = ()) -> TrialRun:
    """The whole plan of a design, tested on a station of which so much is otherwise. left_out: steps that were not run."""
    a = judge(document)
    station = station_of(a)
    true = TrueStation(station, hidden)
    meters = Meters(true.read(), np.random.default_rng(seed))
    steps = [step for step in steps_of(station) if step.key not in left_out]
    readings = run_trial(true, meters, steps)
    keys = [step.key for step in plan_of_test(a).steps if step.key in {s.key for s in steps}]
    events: list[dict[str, Any]] = []
    for span in readings.spans:
        events.append({"at_s": span.begin_s, "kind": "begin", "data": {"step": keys.index(span.step)}})
        events.append({"at_s": span.end_s, "kind": "end", "data": {"how": span.ended}})
    begun = datetime(2026, 11, 21, 9, 30, tzinfo=UTC)
    file = RunFile.model_validate(
        {
            "begun_at": begun,
            "over_at": begun + timedelta(seconds=float(readings.seconds[-1])),
            "design": document,
            "steps": keys,
            "instruments": [{"name": name, "address": "127.0.0.1:1"} for name in ("DC meter", "Clamp", "AC meter")],
            "events": events,
        }
    )
    table = np.array([readings.channels[c] for c in readings.channels]).T
    rows = [
        (float(moment), {c: float(v) for c, v in zip(readings.channels, row, strict=True) if np.isfinite(v)})
        for moment, row in zip(readings.seconds, table, strict=True)
    ]
    return TrialRun(write_run_file(file), write_run_csv(rows, list(readings.channels)), true.values)
