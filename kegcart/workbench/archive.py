"""The archive of a build: a ZIP file with its file of design and record, and its photos and load tests beside it."""

import re
import zipfile
from collections.abc import Iterable, Mapping
from tempfile import TemporaryFile
from typing import IO, Any, Final

from pydantic_core import to_json

from kegcart.core.design import DesignError
from kegcart.core.log.file import MOST_BYTES as MOST_FILE_BYTES
from kegcart.core.log.file import RecordRow
from kegcart.workbench import photos

BUILD = "build.kegcart.json"
PHOTOS, TESTS = "photos/", "tests/"
IS_TEST: Final = re.compile(r"tests/[1-9]\d{0,3}\.json")
BEGINS: Final = b"PK\x03\x04"
"""How the bytes of an archive begin."""
MOST_BYTES = 600_000_000
MOST_PHOTOS, MOST_TESTS = 2_000, 100
MOST_TEST_BYTES = 200_000_000


def photos_in(rows: Iterable[RecordRow]) -> list[str]:
    """The digests of the photos that rows name and that are kept here."""
    named = dict.fromkeys(row.data["digest"] for row in rows if row.kind == "photo")
    return [digest for digest in named if photos.there(digest)]


def write_archive(build: Mapping[str, Any], digests: Iterable[str], tests: Iterable[tuple[Any, str]] = ()) -> IO[bytes]:
    """An archive of the file of a build, of photos, and of load tests (file and readings), open at its beginning. Errors: OSError."""
    out = TemporaryFile()  # noqa: SIM115 -- whoever answers with it closes it
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr(BUILD, to_json(build), zipfile.ZIP_DEFLATED)
        for digest in digests:
            archive.write(photos.file_of(digest), f"{PHOTOS}{digest}.jpg", zipfile.ZIP_STORED)
        for number, (test, readings) in enumerate(tests, 1):
            archive.writestr(f"{TESTS}{number}.json", to_json(test), zipfile.ZIP_DEFLATED)
            archive.writestr(f"{TESTS}{number}.csv", readings, zipfile.ZIP_DEFLATED)
    out.seek(0)
    return out


class Archive:
    """An archive that came in. Errors: DesignError, where it is none, or holds what does not belong there."""

    def __init__(self, file: IO[bytes]) -> None:
        try:
            self.zip = zipfile.ZipFile(file)
            infos = self.zip.infolist()
        except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
            raise DesignError([("", f"the archive cannot be read: {error}")]) from None
        names = [info.filename for info in infos if not info.is_dir()]
        if names.count(BUILD) != 1:
            raise DesignError([("", f"the archive holds no {BUILD}: it is none of a build")])
        self.tests = sorted((n.removesuffix(".json") for n in names if IS_TEST.fullmatch(n)), key=lambda n: int(n[len(TESTS) :]))
        of_tests = {f"{test}{ending}" for test in self.tests for ending in (".json", ".csv")}
        if missing := of_tests - set(names):
            raise DesignError([("", f"the archive holds no {min(missing)}")])
        others = [name for name in names if name != BUILD and name not in of_tests]
        self.digests = [name.removeprefix(PHOTOS).removesuffix(".jpg") for name in others]
        for name, digest in zip(others, self.digests, strict=True):
            if name != f"{PHOTOS}{digest}.jpg" or not photos.is_digest(digest):
                raise DesignError([("", f"the archive holds '{name[:80]}', which is no part of a build")])
        if len(self.digests) > MOST_PHOTOS or len(self.tests) > MOST_TESTS:
            raise DesignError([("", f"the archive holds more than {MOST_PHOTOS} photos, or more than {MOST_TESTS} load tests")])

    def build(self) -> bytes:
        """The file of the build in it. Errors: DesignError."""
        return self.read(BUILD, MOST_FILE_BYTES)

    def test(self, name: str) -> tuple[bytes, bytes]:
        """A load test in it: its file and its readings. Errors: DesignError."""
        return self.read(f"{name}.json", MOST_FILE_BYTES), self.read(f"{name}.csv", MOST_TEST_BYTES)

    def photo(self, digest: str) -> bytes:
        """A photo in it, which is what its name says. Errors: DesignError."""
        content = self.read(f"{PHOTOS}{digest}.jpg", photos.MOST_BYTES)
        if photos.digest_of(content) != digest:
            raise DesignError(
                [("", f"the photo {digest[:12]}… in the archive is another than its name says: it was changed, or is broken")]
            )
        return content

    def read(self, name: str, most: int) -> bytes:
        """What is in it under a name, so many bytes at most. Errors: DesignError."""
        try:
            with self.zip.open(name) as inside:
                content = inside.read(most + 1)
        except (zipfile.BadZipFile, OSError, ValueError, EOFError, RuntimeError, NotImplementedError) as error:
            raise DesignError([("", f"{name} in the archive cannot be read: {error}")]) from None
        if len(content) > most:
            raise DesignError([("", f"{name} in the archive is larger than {most // 10**6} MB")])
        return content
