"""The test runner: Django's own, closing with one line of counts, and naming the slowest tests where they are asked for.

A test that does not end fails, and its traceback says where it stood.
"""

import os
import signal
import sys
import time
import traceback
from typing import Any

from django.db import connections
from django.db.models.signals import post_migrate
from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner

from kegcart.site.memory import settle

SLOWEST = 20
SLOW_VARIABLE = "KEGCART_SLOW"
"""Set in the environment where the slowest tests are asked for."""
MOST_S = 3600.0 if os.environ.get("KEGCART_PROVE") else 240.0
"""The slowest test takes a tenth of that; what is proved on hundreds of cases may take longer."""


def write_back(using: str = "default", **_: Any) -> None:
    """Bring what stands in the write-ahead log into the database file: the copy for each process is made of the file alone."""
    with connections[using].cursor() as cursor:
        cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")


def watch(seconds: float) -> None:
    """Raise in this process after so many seconds, wherever it stands; 0 takes that back. Without signals of the clock, nothing."""
    if not hasattr(signal, "setitimer"):
        return

    def interrupt(*_: Any) -> None:
        raise TimeoutError(f"the test has not ended within {seconds:g} s")

    signal.signal(signal.SIGALRM, interrupt)
    signal.setitimer(signal.ITIMER_REAL, seconds)


class TimedResult(RemoteTestResult):
    """What a process tells of its tests, with the seconds that each took.

    An error that cannot go from one process to another, or that of a part of a test that holds such a thing (a page of a browser), goes
    as its words: else it would end the whole run.
    """

    def portable(self, err: Any) -> Any:
        """An error as it can be sent."""
        try:
            self._confirm_picklable(err)
        except Exception:
            return AssertionError, AssertionError("".join(traceback.format_exception(*err))), None
        return err

    def addError(self, test: Any, err: Any) -> None:  # noqa: N802
        super().addError(test, self.portable(err))

    def addFailure(self, test: Any, err: Any) -> None:  # noqa: N802
        super().addFailure(test, self.portable(err))

    def addSubTest(self, test: Any, subtest: Any, err: Any) -> None:  # noqa: N802
        if err is not None:
            text = "".join(traceback.format_exception(*err))
            super().addFailure(test, (AssertionError, AssertionError(f"{subtest}\n{text}"), None))

    def startTest(self, test: Any) -> None:  # noqa: N802
        self.begun = time.monotonic()
        super().startTest(test)
        watch(MOST_S)

    def stopTest(self, test: Any) -> None:  # noqa: N802
        watch(0)
        super().stopTest(test)
        self.events.append(("addSeconds", self.test_index, time.monotonic() - self.begun))


class TimedRunner(RemoteTestRunner):
    resultclass = TimedResult


class TimedSuite(ParallelTestSuite):
    """Test classes that say `takes_long` go first: one that begins last would run alone at the end, the other processors idle."""

    runner_class = TimedRunner

    def __init__(self, subsuites: Any, *given: Any, **named: Any) -> None:
        super().__init__(sorted(subsuites, key=lambda suite: not takes_long(suite)), *given, **named)


def takes_long(suite: Any) -> bool:
    """Whether the tests of a class say that they take long."""
    return any(getattr(test, "takes_long", False) for test in suite)


def timed(result_class: type[Any]) -> type[Any]:
    """A class of results that also keeps how long each test took, s."""

    class Timed(result_class):  # type: ignore[misc]
        def startTest(self, test: Any) -> None:  # noqa: N802
            self.begun = time.monotonic()
            super().startTest(test)
            watch(MOST_S)

        def stopTest(self, test: Any) -> None:  # noqa: N802
            watch(0)
            super().stopTest(test)
            self.addSeconds(test, time.monotonic() - self.begun)

        def addSeconds(self, test: Any, seconds: float) -> None:  # noqa: N802
            seen = self.__dict__.setdefault("seconds", {})
            seen[test.id()] = max(seconds, seen.get(test.id(), 0.0))

    return Timed


class CountingRunner(DiscoverRunner):
    """Ends with `N passed, N failed`."""

    parallel_test_suite = TimedSuite

    def get_resultclass(self) -> Any:
        import unittest

        return timed(super().get_resultclass() or unittest.TextTestResult)

    def run_checks(self, databases: set[str]) -> None:
        """Django's checks import all of the API: tests of the core alone, which use no database, start without them."""
        if databases:
            super().run_checks(databases)

    def setup_databases(self, **kwargs: Any) -> Any:
        post_migrate.connect(write_back)
        return super().setup_databases(**kwargs)

    def run_suite(self, suite: Any, **kwargs: Any) -> Any:
        settle()  # as in the server: here too most of what is made are figures that die with their answer
        if rig := sys.modules.get("kegcart.workbench.rig"):  # tests use a server: its data is made before the processes part
            rig.demo_data()
        result = super().run_suite(suite, **kwargs)
        # A test that fails in several of its parts has failed once.
        wrong = [test for test, _ in (*result.failures, *result.errors)] + result.unexpectedSuccesses
        failed = len({getattr(test, "test_case", test).id() for test in wrong})
        skipped = len(result.skipped)
        self.counts = (result.testsRun - failed - skipped, failed, skipped)
        self.seconds: dict[str, float] = getattr(result, "seconds", {})
        return result

    def run_tests(self, *args: Any, **kwargs: Any) -> int:
        failures = super().run_tests(*args, **kwargs)
        if os.environ.get(SLOW_VARIABLE):
            slowest = sorted(getattr(self, "seconds", {}).items(), key=lambda item: -item[1])[:SLOWEST]
            print("\n".join(f"{seconds:7.2f} s  {name}" for name, seconds in slowest))
        passed, failed, skipped = getattr(self, "counts", (0, 1, 0))
        print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""), flush=True)
        return int(failures)
