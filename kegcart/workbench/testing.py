"""The test runner: Django's own, closing with one line of counts."""

from typing import Any

from django.db import connections
from django.db.models.signals import post_migrate
from django.test.runner import DiscoverRunner


def write_back(using: str = "default", **_: Any) -> None:
    """Bring what stands in the write-ahead log into the database file: the copy for each process is made of the file alone."""
    with connections[using].cursor() as cursor:
        cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")


class CountingRunner(DiscoverRunner):
    """Ends with `N passed, N failed`."""

    def setup_databases(self, **kwargs: Any) -> Any:
        post_migrate.connect(write_back)
        return super().setup_databases(**kwargs)

    def run_suite(self, suite: Any, **kwargs: Any) -> Any:
        result = super().run_suite(suite, **kwargs)
        # A test that fails in several of its parts has failed once.
        wrong = [test for test, _ in (*result.failures, *result.errors)] + result.unexpectedSuccesses
        failed = len({getattr(test, "test_case", test).id() for test in wrong})
        skipped = len(result.skipped)
        self.counts = (result.testsRun - failed - skipped, failed, skipped)
        return result

    def run_tests(self, *args: Any, **kwargs: Any) -> int:
        failures = super().run_tests(*args, **kwargs)
        passed, failed, skipped = getattr(self, "counts", (0, 1, 0))
        print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""), flush=True)
        return failures
