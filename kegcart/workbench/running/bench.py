"""The bench of this machine: one test at a time, begun, found again, taken up when the server starts."""

import logging
import threading
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import asdict
from typing import Any, Final

from django.db import connection
from django.utils import timezone
from pydantic_core import from_json

from kegcart.core.bench.asking import kind_named, spelled_out, taken_twice
from kegcart.core.bench.live import Command, RefusedCommandError, needs_hands
from kegcart.core.design import DesignError
from kegcart.core.reference.bench import Ask, instrument_types
from kegcart.workbench import longwork, services
from kegcart.workbench.models import OwnInstrument, TestRun
from kegcart.workbench.running.runner import Runner
from kegcart.workbench.workers import BusyError, workers

STOP: Final[Command] = "stop"
FINISH: Final[Command] = "finish"

log = logging.getLogger(__name__)

_runner: Runner | None = None
_lock = threading.Lock()


def running(run_id: str) -> Runner | None:
    """The test of this id, where it is under way."""
    runner = _runner
    return runner if runner is not None and runner.run.pk == run_id and not runner.over else None


def judging(run_id: str) -> bool:
    """Whether what a test that is over says is being worked out."""
    runner = _runner
    return runner is not None and runner.run.pk == run_id and runner.ending


def begin(design_id: str, steps: Sequence[str], names: Sequence[str], by_itself: bool) -> TestRun:
    """Begin a test of a design with some of the builder's instruments. Errors: DesignError, MissingError, BusyError."""
    global _runner
    text, elsewhere = services.as_given(design_id)
    known = {own.name: own for own in OwnInstrument.objects.filter(name__in=names)}
    if unknown := [name for name in names if name not in known]:
        raise DesignError([("/instruments", f"there is no instrument named '{unknown[0][:60]}'")])
    prepared = from_json(workers.run(longwork.prepared, text, elsewhere, tuple(steps)))
    instruments = told_apart([known[name] for name in names], prepared["cells"], len(prepared["points"]))
    obeys = {act.split(".")[0] for one in instruments for act in one["acts"]}
    inverter = any(step["setting"]["inverter"] for step in prepared["steps"])
    for step in prepared["steps"]:
        step["confirm"] = step["confirm"] or needs_hands(step["act"], obeys, inverter)
    with _lock:
        if _runner is not None and not _runner.over:
            raise DesignError([("", f"a test of {_runner.run.design.name} is being run: finish it first")])
        run = TestRun.objects.create(
            design_id=design_id, prepared=prepared, document=from_json(text), by_itself=by_itself, instruments=instruments
        )
        _runner = Runner(run)
        _runner.start()
    return run


def told_apart(own: Sequence[OwnInstrument], cells: int, points: int) -> list[dict[str, Any]]:
    """Instruments as a run keeps them: what each is asked, spelled out, no channel twice."""
    asked = [[spelled_out(ask, cells, points) for ask in asks_of(one)] for one in own]
    return [
        {
            "name": one.name,
            "address": one.address,
            "asks": [asdict(ask) for ask in asks if ask.channels],
            "acts": acts_of(one),
            "every_s": one.every_s,
        }
        for one, asks in zip(own, taken_twice(asked), strict=True)
    ]


def asks_of(own: OwnInstrument) -> list[Ask]:
    """What an instrument is asked: in its own words, else as its kind."""
    if own.asks:
        return [Ask(a["text"], tuple(a["channels"]), a["unit"], a["scale"], a["optional"]) for a in own.asks]
    kind = instrument_types().get(own.kind)
    return list(kind.asks) if kind else []


def acts_of(own: OwnInstrument) -> dict[str, str]:
    """What an instrument can be told to do: in its own words, else as its kind."""
    if own.asks or own.acts:
        return dict(own.acts)
    kind = instrument_types().get(own.kind)
    return dict(kind.acts) if kind else {}


def kind_key(name: str) -> str:
    """The key of the kind that an instrument's name tells; empty where it tells none."""
    kind = kind_named(name)
    return kind.key if kind else ""


def take_up() -> None:
    """Take up the test that was under way when the server ended."""
    global _runner
    try:
        under_way = TestRun.objects.filter(over_at=None).order_by("-begun_at")
        run = under_way.filter(design__deleted_at=None).first()
        # One at a time: what else was left open is over.
        under_way.exclude(pk=run.pk if run else "").update(over_at=timezone.now())
        if run is not None:
            with _lock:
                _runner = Runner(run)
                _runner.start()
    except Exception:
        log.exception("the test that was under way cannot be taken up")
        TestRun.objects.filter(over_at=None).update(over_at=timezone.now())
    finally:
        connection.close()


def leave(design_id: str) -> None:
    """A build is taken off the shelf: a test of it that is under way ends."""
    runner = _runner
    if runner is not None and runner.run.design_id == design_id and not runner.over:
        for command in (STOP, FINISH):
            with suppress(RefusedCommandError, BusyError):
                runner.command(command, {})


def close() -> None:
    """The server ends: the test stands as it is."""
    global _runner
    with _lock:
        runner, _runner = _runner, None
    if runner is not None:
        runner.close()
