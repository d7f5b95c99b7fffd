"""Long work beside the requests: watched, stopped, ended by the clock, and what goes wrong is said."""

import threading
from unittest import TestCase

from kegcart.workbench import jobs


def counting(job: "jobs.Job[str, int, int]") -> int:
    """Counts until it is told to end, and gives what it has."""
    n = 0
    while job.told(0.0, n):
        n += 1
    return n


class JobsTest(TestCase):
    def test_what_is_stopped_ends_with_the_best_it_has(self) -> None:
        key, job = jobs.begin("counting", "numbers", counting, limit_s=60)
        self.assertEqual((job.about, job.done, job.result), ("numbers", False, None))
        job.stop()
        self.assertTrue(job.done)
        self.assertEqual((job.result, job.progress, job.error), (job.so_far, 1.0, ""))
        self.assertIs(jobs.find("counting", key), job)
        self.assertIsNone(jobs.find("sorting", key), "a job is found by its own kind only")

    def test_its_time_ends_it(self) -> None:
        _, job = jobs.begin("counting", "numbers", counting, limit_s=0.01)
        job.wait(10)
        self.assertTrue(job.done)
        self.assertIsNotNone(job.result)

    def test_progress_is_the_farther_of_work_and_clock(self) -> None:
        job: jobs.Job[str, str, None] = jobs.Job("", limit_s=60)
        self.assertTrue(job.told(0.5, "half"))
        self.assertEqual((job.progress, job.so_far), (0.5, "half"))
        job.told(7.0, "beyond")
        self.assertEqual(job.progress, 1.0)

    def test_what_cannot_be_done_is_said(self) -> None:
        def cannot(job: "jobs.Job[str, None, None]") -> None:
            raise jobs.CannotError("too few cells")

        _, job = jobs.begin("trying", "", cannot, limit_s=60)
        job.wait(10)
        self.assertEqual((job.done, job.error, job.result), (True, "too few cells", None))

    def test_what_fails_unforeseen_is_said_too(self) -> None:
        def fails(job: "jobs.Job[str, None, float]") -> float:
            return 1 / 0

        hook, threading.excepthook = threading.excepthook, lambda _: None  # the log of the server has it
        self.addCleanup(setattr, threading, "excepthook", hook)
        _, job = jobs.begin("trying", "", fails, limit_s=60)
        job.wait(10)
        self.assertIn("division by zero", job.error)

    def test_the_oldest_is_stopped_when_there_are_too_many(self) -> None:
        first, job = jobs.begin("counting", "", counting, limit_s=60)
        for _ in range(jobs.KEPT):
            jobs.begin("counting", "", counting, limit_s=0.01)
        job.wait(10)
        self.assertTrue(job.done)
        self.assertIsNone(jobs.find("counting", first))
