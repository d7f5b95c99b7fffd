"""The database file: whether it can be used, copies of it, and bringing one back.

A backup is a database file of its own, consistent also while the server runs, checked when it is made and when it is read.
"""

import contextlib
import os
import shutil
import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings
from django.db import connection

from kegcart.workbench import photos

LEAST_ROOM = 20_000_000
"""Bytes that must be free: what is written, its log, and a backup."""
KEPT = 5
"""So many automatic backups are kept."""
A_DAY_S = 24 * 3600
APP = "workbench"


class StorageError(Exception):
    """What is wrong with the database, a backup or the folder, in one line with what to do."""


def database() -> Path:
    return Path(str(settings.DATABASES["default"]["NAME"]))


def there() -> bool:
    """Whether there is a database with something in it; one that cannot be read is there."""
    if not database().exists():
        return False
    try:
        with opened(database()) as found:
            return bool(found.execute("SELECT COUNT(*) FROM sqlite_master").fetchone()[0])
    except StorageError:
        return True


def folder() -> Path:
    """Where automatic backups lie."""
    return database().parent / "backups"


def newest() -> Path | None:
    """The newest automatic backup."""
    found = sorted(folder().glob("*.sqlite3"), key=lambda file: file.stat().st_mtime)
    return found[-1] if found else None


def known_migrations() -> set[str]:
    """The migrations that this program has."""
    return {file.stem for file in (Path(__file__).parent / "migrations").glob("[0-9]*.py")}


@contextmanager
def opened(file: Path) -> Iterator[sqlite3.Connection]:
    """A database file, to be read only. Errors: StorageError where it is none."""
    if not file.is_file():
        raise StorageError(f"there is no file {file}")
    found = sqlite3.connect(f"file:{file}?mode=ro", uri=True, timeout=20)
    try:
        yield found
    except sqlite3.DatabaseError as error:
        raise StorageError(f"{file} cannot be read as a database: {error}") from None
    finally:
        found.close()


def checked(file: Path) -> set[str]:
    """The migrations of a database of Keg Cart, found whole. Errors: StorageError."""
    with opened(file) as found:
        told = [row[0] for row in found.execute("PRAGMA integrity_check(3)")]
        if told != ["ok"]:
            raise StorageError(f"{file} is damaged: {told[0].splitlines()[-1]}")
        tables = {row[0] for row in found.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        if "django_migrations" not in tables:
            raise StorageError(f"{file} is no database of Keg Cart")
        return {row[0] for row in found.execute("SELECT name FROM django_migrations WHERE app = ?", [APP])}


def make_private() -> None:
    """What lies in the data folder is the builder's alone, also what an earlier version made."""
    place = database().parent
    with contextlib.suppress(OSError):
        place.chmod(0o700)
        for file in place.iterdir():
            if file.is_file():
                file.chmod(0o600)


def problem() -> str:
    """What keeps the program from using its data, in one line with what to do; empty where nothing does."""
    place = database().parent
    if not place.is_dir():
        return f"the data folder {place} is not there: run `python3 run.py demo`."
    if not os.access(place, os.W_OK | os.X_OK):
        return f"the data folder {place} may not be written to: allow it, or name another in KEGCART_DATA."
    if shutil.disk_usage(place).free < LEAST_ROOM:
        return f"less than {LEAST_ROOM // 1_000_000} MB are free where the data lies ({place}): make room."
    if not there():
        return "there is no data yet: run `python3 run.py demo`."
    if not os.access(database(), os.W_OK):
        return f"the database {database()} may not be written to: allow it."
    try:
        applied = usable()
    except StorageError as error:
        return f"{error}."
    if known_migrations() - applied:
        return "the data is of an earlier version: run `python3 run.py demo` once, which keeps a backup and brings it up to date."
    return ""


def usable() -> set[str]:
    """The migrations of the database, found whole and not of a later program. Errors: StorageError with the way on."""
    try:
        applied = checked(database())
    except StorageError as error:
        last = newest()
        way = f"`python3 run.py restore {last}` brings back the newest backup" if last else "no backup of it was made yet"
        raise StorageError(f"{error}. It stays as it is: {way}") from None
    if later := applied - known_migrations():
        raise StorageError(f"the data was written by a later version of the program ({max(later)}): run that one")
    return applied


@contextmanager
def held_open() -> Iterator[None]:
    """Keep the log of the database in place: with the last connection it would go, and with a full disk not come back to be read by."""
    with contextlib.closing(sqlite3.connect(database(), check_same_thread=False)) as holding:
        holding.execute("SELECT COUNT(*) FROM sqlite_master").fetchone()
        yield


def copied(source: Path, target: Path) -> None:
    """A consistent copy of a database that may be in use, whole or not at all. Errors: StorageError."""
    half = target.with_name(f".{target.name}.half")
    try:
        with opened(source) as from_, contextlib.closing(sqlite3.connect(half)) as to:
            from_.backup(to)
            to.execute("PRAGMA journal_mode=DELETE")
        checked(half)
        half.chmod(0o600)
        half.replace(target)
    except (OSError, sqlite3.Error) as error:
        raise StorageError(f"the copy {target} cannot be written: {error}") from None
    finally:
        half.unlink(missing_ok=True)


PHOTO_FILES = "photo_files"
"""The table in which a backup holds the photos."""


def back_up(target: Path) -> None:
    """A backup where the builder wants it, with the photos. Errors: StorageError."""
    if target.exists():
        raise StorageError(f"{target} is there already: choose another name")
    if not target.absolute().parent.is_dir():
        raise StorageError(f"there is no folder {target.absolute().parent}")
    copied(database(), target)
    with contextlib.closing(sqlite3.connect(target)) as backup, backup:
        backup.execute(f"CREATE TABLE {PHOTO_FILES} (name TEXT PRIMARY KEY, content BLOB NOT NULL)")
        for file in sorted(photos.folder().glob("*.jpg")):
            backup.execute(f"INSERT INTO {PHOTO_FILES} VALUES (?, ?)", (file.name, file.read_bytes()))


def photos_back(backup: sqlite3.Connection) -> None:
    """Bring back the photos that a backup holds; one that is there already stays. Errors: sqlite3.Error, OSError."""
    if not backup.execute("SELECT 1 FROM sqlite_master WHERE name = ?", (PHOTO_FILES,)).fetchone():
        return  # an automatic one holds none: photos are never changed, and lie in their folder
    photos.folder().mkdir(mode=0o700, exist_ok=True)
    for name, content in backup.execute(f"SELECT name, content FROM {PHOTO_FILES}"):
        if photos.FILE_NAME.fullmatch(name):
            photos.write_whole(photos.folder() / name, content)


def back_up_beside(reason: str) -> Path:
    """An automatic backup; the oldest beyond those that are kept goes. Errors: StorageError."""
    folder().mkdir(exist_ok=True)
    stem = f"{time.strftime('%Y-%m-%d-%H%M%S')}-{reason}"
    target = next(
        file for n in range(1000) if not (file := folder() / (f"{stem}.sqlite3" if n == 0 else f"{stem}-{n}.sqlite3")).exists()
    )
    copied(database(), target)
    for old in sorted(folder().glob("*.sqlite3"), key=lambda file: file.stat().st_mtime)[:-KEPT]:
        old.unlink()
    return target


def back_up_daily() -> None:
    """A backup, unless one of the last day is there. What stands in the way of it stops nothing else."""
    last = newest()
    if last is None or time.time() - last.stat().st_mtime > A_DAY_S:
        with contextlib.suppress(StorageError, OSError):
            back_up_beside("daily")


def restore(source: Path) -> Path | None:
    """Bring back a backup, also while the server runs; what stood before is kept. Returns where. Errors: StorageError."""
    if later := checked(source) - known_migrations():
        raise StorageError(f"{source} was written by a later version of the program ({max(later)}): restore it with that one")
    kept = None
    if there():
        try:
            checked(database())
            kept = back_up_beside("before-restore")
        except StorageError:  # a damaged one is put aside as it is
            kept = database().with_name(f"{database().name}.damaged-{time.strftime('%Y-%m-%d-%H%M%S')}")
            database().replace(kept)
            for rest in ("-wal", "-shm"):
                with contextlib.suppress(FileNotFoundError):
                    database().with_name(database().name + rest).replace(kept.with_name(kept.name + rest))
    connection.close()
    try:
        with opened(source) as from_, contextlib.closing(sqlite3.connect(database(), timeout=20)) as to:
            photos_back(from_)
            from_.backup(to)
            to.execute(f"DROP TABLE IF EXISTS {PHOTO_FILES}")
    except (sqlite3.Error, OSError) as error:
        raise StorageError(f"the backup cannot be written back: {error}") from None
    return kept
