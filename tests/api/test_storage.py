"""The data is looked at before it is used, copied while it is used, and brought back."""

import shutil
import sqlite3
import stat
import tempfile
import threading
from pathlib import Path
from typing import Any
from unittest import TestCase, mock

from kegcart.workbench import storage
from kegcart.workbench.rig import demo_data
from kegcart.workbench.storage import StorageError


class StorageTest(TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name) / "data"
        shutil.copytree(demo_data().name, self.folder)
        self.file = self.folder / "kegcart.sqlite3"
        placed = mock.patch.object(storage, "database", lambda: self.file)
        placed.start()
        self.addCleanup(placed.stop)

    def designs(self, file: Path | None = None) -> int:
        with storage.opened(file or self.file) as found:
            return int(found.execute("SELECT COUNT(*) FROM workbench_storeddesign").fetchone()[0])

    def write(self, statement: str, *given: Any) -> None:
        with sqlite3.connect(self.file) as connection:
            connection.execute(statement, given)
        connection.close()

    def damage(self) -> None:
        with self.file.open("r+b") as file:
            file.seek(8192)
            file.write(b"\x07" * 40_000)

    def refused(self, work: Any, *given: Any) -> str:
        with self.assertRaises(StorageError) as caught:
            work(*given)
        return str(caught.exception)


class Problems(StorageTest):
    def test_sound_data_is_no_problem(self) -> None:
        self.assertEqual(storage.problem(), "")

    def test_each_problem_is_told_in_one_line_with_what_to_do(self) -> None:
        with mock.patch.object(storage.shutil, "disk_usage", return_value=mock.Mock(free=1000)):
            self.assertIn("less than 20 MB are free", storage.problem())
        with mock.patch.object(storage.os, "access", lambda place, how: Path(place) != self.folder):
            self.assertIn("the data folder", storage.problem())
        with mock.patch.object(storage.os, "access", lambda place, how: Path(place) != self.file):
            self.assertIn("the database", storage.problem())
        self.write("INSERT INTO django_migrations (app, name, applied) VALUES ('workbench', '9999_later', '2030-01-01')")
        self.assertIn("by a later version of the program (9999_later)", storage.problem())
        self.write("DELETE FROM django_migrations WHERE name IN ('9999_later', ?)", max(storage.known_migrations()))
        self.assertIn("of an earlier version: run `python3 run.py demo`", storage.problem())
        self.damage()
        told = storage.problem()
        self.assertIn("is damaged", told)
        self.assertIn("no backup of it was made yet", told)
        self.file.unlink()
        self.assertIn("there is no data yet", storage.problem())
        with sqlite3.connect(self.file) as opened:  # as a command leaves it that only looks
            opened.execute("PRAGMA journal_mode=WAL")
        opened.close()
        self.assertIn("there is no data yet", storage.problem())
        shutil.rmtree(self.folder)
        self.assertIn("is not there: run `python3 run.py demo`", storage.problem())

    def test_of_damaged_data_the_newest_backup_is_offered(self) -> None:
        kept = storage.back_up_beside("daily")
        self.damage()
        self.assertIn(f"`python3 run.py restore {kept}`", storage.problem())


class Backups(StorageTest):
    def test_a_backup_made_while_it_is_written_to_is_whole(self) -> None:
        ended = threading.Event()

        def busy() -> None:
            while not ended.is_set():
                self.write("UPDATE workbench_storeddesign SET purpose = purpose || 'x'")

        writing = threading.Thread(target=busy)
        writing.start()
        try:
            for n in range(5):
                storage.back_up(self.folder / f"copy-{n}.sqlite3")
        finally:
            ended.set()
            writing.join()
        for n in range(5):
            with storage.opened(self.folder / f"copy-{n}.sqlite3") as found:
                lengths = {
                    row[0]
                    for row in found.execute("SELECT LENGTH(purpose) - LENGTH(RTRIM(purpose, 'x')) FROM workbench_storeddesign")
                }
            self.assertEqual(len(lengths), 1, "one state of all designs")

    def test_it_brings_back_what_was_and_keeps_what_is(self) -> None:
        target = self.folder / "mine.sqlite3"
        storage.back_up(target)
        self.assertEqual(stat.S_IMODE(target.stat().st_mode), 0o600)
        self.write("UPDATE workbench_storeddesign SET name = 'changed'")
        reading = sqlite3.connect(self.file)  # as the server has it open
        reading.execute("SELECT COUNT(*) FROM workbench_storeddesign").fetchone()
        kept = storage.restore(target)
        names = {row[0] for row in reading.execute("SELECT name FROM workbench_storeddesign")}
        reading.close()
        self.assertNotIn("changed", names)
        assert kept
        with storage.opened(kept) as found:
            self.assertEqual(found.execute("SELECT DISTINCT name FROM workbench_storeddesign").fetchall(), [("changed",)])

    def test_a_damaged_database_is_put_aside_and_replaced(self) -> None:
        target = storage.back_up_beside("daily")
        before = self.designs()
        self.damage()
        kept = storage.restore(target)
        assert kept
        self.assertIn("damaged", kept.name)
        self.assertEqual((self.designs(), storage.problem()), (before, ""))

    def test_what_is_no_backup_is_refused_and_nothing_is_touched(self) -> None:
        target = self.folder / "mine.sqlite3"
        storage.back_up(target)
        self.assertIn("is there already", self.refused(storage.back_up, target))
        self.assertIn("there is no folder", self.refused(storage.back_up, self.folder / "none" / "mine.sqlite3"))
        for content in (b"", b"no database at all" * 100, target.read_bytes()[:9000]):
            other = self.folder / "other.sqlite3"
            other.write_bytes(content)
            self.refused(storage.restore, other)
        self.assertIn("there is no file", self.refused(storage.restore, self.folder / "none.sqlite3"))
        foreign = sqlite3.connect(self.folder / "foreign.sqlite3")
        foreign.execute("CREATE TABLE a (b)")
        foreign.close()
        self.assertIn("no database of Keg Cart", self.refused(storage.restore, self.folder / "foreign.sqlite3"))
        self.assertEqual((storage.problem(), storage.newest()), ("", None))

    def test_automatic_backups_are_made_daily_and_the_last_few_kept(self) -> None:
        storage.back_up_daily()
        storage.back_up_daily()
        self.assertEqual(len(list(storage.folder().iterdir())), 1)
        for _ in range(storage.KEPT + 2):
            last = storage.back_up_beside("test")
        self.assertEqual(len(list(storage.folder().iterdir())), storage.KEPT)
        self.assertTrue(last.exists())
