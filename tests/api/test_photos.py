"""Photos: turned upright, bounded, without what the camera wrote beside the picture, refused in words, and carried by a backup."""

import json
import shutil
import sqlite3
import tempfile
import zipfile
from hashlib import sha256
from io import BytesIO
from pathlib import Path
from typing import Any
from unittest import mock

from django.test import TestCase
from PIL import Image

from kegcart.workbench import photos, record, services, storage
from kegcart.workbench.models import StoredDesign
from kegcart.workbench.services import DEMO_DIR


def picture(width: int, height: int, form: str = "JPEG", mode: str = "RGB", turned: int = 1, taken: str = "") -> bytes:
    """The bytes of a photo, its upper left quarter red. turned: as the camera was held, by EXIF."""
    made = Image.new("RGB", (width, height), "white")
    made.paste("red", (0, 0, width // 2, height // 2))
    exif = Image.Exif()
    exif[0x0112] = turned
    exif[0x010F] = "a camera"
    if taken:
        exif[0x0132] = taken
    out = BytesIO()
    made.convert(mode).save(out, form, **({"exif": exif} if form == "JPEG" else {}))
    return out.getvalue()


class WithPhotos(TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name) / "photos"
        placed = mock.patch.object(photos, "folder", lambda: self.folder)
        placed.start()
        self.addCleanup(placed.stop)
        self.design = services.create(json.loads((DEMO_DIR / "tidewater.json").read_text(encoding="utf-8")), "Made").pk

    def send(self, content: bytes, item: str = "a", **said: str) -> Any:
        query = "&".join(f"{name}={value}" for name, value in {"entry": item, "item": item, **said}.items())
        return self.client.post(f"/api/designs/{self.design}/photos?{query}", content, content_type="application/octet-stream")

    def rows(self) -> list[dict[str, Any]]:
        return list(self.client.get(f"/api/designs/{self.design}/timeline").json()["rows"])


class PhotoTest(WithPhotos):
    def test_it_is_turned_upright_made_smaller_and_says_no_more_than_the_picture(self) -> None:
        answer = self.send(picture(2400, 1800, turned=6, taken="2026:05:02 10:11:12"), step="dry-fit", what="Lid shut")
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        (photo,) = answer.json()["photos"]
        self.assertEqual((photo["width"], photo["height"], photo["on"], photo["step"]), (1200, 1600, "2026-05-02", "dry-fit"))
        for small, size in (("", (1200, 1600)), ("?small=true", (240, 320))):
            file = self.client.get(f"/api/photos/{photo['digest']}{small}")
            shown = Image.open(BytesIO(file.content))
            self.assertEqual((file["Content-Type"], shown.size, dict(shown.getexif())), ("image/jpeg", size, {}))
            red: Any = shown.getpixel((size[0] - 10, 10))  # a quarter turn to the right
            self.assertTrue(red[0] > 200 and red[1] < 60, red)
        self.assertEqual([(r["kind"], r["text"], r["on"]) for r in self.rows()], [("photo", "Lid shut", "2026-05-02")])

    def test_other_forms_are_taken_and_what_is_clear_is_white(self) -> None:
        for n, (form, mode) in enumerate((("PNG", "P"), ("PNG", "RGBA"), ("PNG", "L"), ("WEBP", "RGB"))):
            self.assertEqual(self.send(picture(90, 60, form, mode), f"i{n}").status_code, 200, (form, mode))
        clear = BytesIO()
        Image.new("RGBA", (40, 40), (0, 0, 0, 0)).save(clear, "PNG")
        digest = self.send(clear.getvalue(), "clear", step="s").json()["photos"][0]["digest"]
        self.assertEqual(Image.open(photos.file_of(digest)).getpixel((5, 5)), (255, 255, 255))

    def test_what_cannot_be_taken_is_refused_in_words_and_nothing_is_kept(self) -> None:
        whole = picture(900, 900)
        for content, said in (
            (b"x" * 20_000_000, "larger than 15 MB"),
            (b"", "is empty"),
            (b"%PDF-1.7 no picture", "no picture that can be read here"),
            (picture(50, 50, "GIF", "P"), "no picture that can be read here"),
            (whole[: len(whole) // 2], "is broken"),
            (whole[:200], "is broken"),
            (picture(10_000, 9000), "million pixels"),
        ):
            answer = self.send(content)
            self.assertEqual(answer.status_code, 422, said)
            self.assertIn(said, answer.json()["message"])
        self.assertEqual((self.rows(), self.folder.exists()), ([], False))
        self.assertEqual(self.client.get(f"/api/photos/{'0' * 64}").status_code, 404)
        self.assertEqual(self.client.get("/api/photos/..%2Fkegcart.sqlite3").status_code, 404)

    def test_sent_twice_it_is_there_once_and_taken_back_it_comes_back(self) -> None:
        for _ in range(2):
            self.send(picture(90, 60), on="2026-05-02")
        (row,) = self.rows()
        record.enter(self.design, "back", "a", None)
        self.assertEqual(self.rows(), [])
        record.enter(self.design, "again", "a", row["data"] | {"what": "Lid"})
        self.assertEqual(self.rows()[0]["text"], "Lid")
        answer = self.client.post(
            f"/api/designs/{self.design}/life",
            json.dumps({"entry": "z", "item": "z", "data": row["data"] | {"digest": "0" * 64}}),
            content_type="application/json",
        )
        self.assertEqual(answer.json()["problems"][0]["pointer"], "/data/digest")

    def test_a_backup_carries_them_and_brings_them_back(self) -> None:
        self.send(picture(90, 60))
        names = {file.name: file.read_bytes() for file in self.folder.iterdir()}
        database, backup = self.folder.parent / "kegcart.sqlite3", self.folder.parent / "kept.sqlite3"
        with sqlite3.connect(database) as made:
            made.execute("CREATE TABLE django_migrations (app TEXT, name TEXT)")
            made.execute("CREATE TABLE workbench_storeddesign (id TEXT)")
        made.close()
        with mock.patch.object(storage, "database", lambda: database), mock.patch.object(storage, "connection"):
            storage.back_up(backup)
            for file in self.folder.iterdir():
                file.unlink()
            storage.restore(backup)
        self.assertEqual({file.name: file.read_bytes() for file in self.folder.iterdir()}, names)
        with sqlite3.connect(database) as back:
            self.assertEqual(back.execute("SELECT name FROM sqlite_master WHERE name = 'photo_files'").fetchall(), [])
        back.close()


class Archived(WithPhotos):
    """The file of a build with photos: an archive that carries them elsewhere, and is refused where it is not what it says."""

    def exported(self) -> bytes:
        answer = self.client.get(f"/api/designs/{self.design}/file")
        self.assertIn(".kegcart.zip", answer["Content-Disposition"])
        return b"".join(answer.streaming_content)  # type: ignore[attr-defined]

    def imported(self, content: bytes) -> Any:
        return self.client.post("/api/designs/import", content, content_type="application/octet-stream")

    def test_it_carries_the_photos_to_where_none_of_them_is(self) -> None:
        for n in range(3):
            self.send(picture(1900 + n, 700), f"i{n}", what=f"Step {n}")
        kept, rows = {file.name: file.read_bytes() for file in self.folder.iterdir()}, self.rows()
        archive = self.exported()
        with zipfile.ZipFile(BytesIO(archive)) as opened:
            self.assertEqual(len(opened.namelist()), 4)
            self.assertEqual(json.loads(opened.read("build.kegcart.json"))["format"], "kegcart/build")
        shutil.rmtree(self.folder)
        made = self.imported(archive)
        self.assertEqual(made.status_code, 201, made.content[:300])
        self.design = made.json()["id"]
        self.assertEqual({file.name for file in self.folder.iterdir()}, set(kept))
        for name, content in kept.items():
            if ".small" not in name:  # what is shown small is made anew
                self.assertEqual((self.folder / name).read_bytes(), content)
        self.assertEqual([r | {"item": ""} for r in self.rows()], [r | {"item": ""} for r in rows])
        plain = self.client.get(f"/api/designs/{self.design}/file?photos=false")
        self.assertEqual(len(json.loads(plain.content)["record"]), 3)

    def test_what_is_none_of_a_build_is_refused_and_makes_none(self) -> None:
        self.send(picture(90, 60))
        whole = self.exported()
        with zipfile.ZipFile(BytesIO(whole)) as opened:
            parts = {name: opened.read(name) for name in opened.namelist()}
        build, photo = "build.kegcart.json", next(name for name in parts if name.startswith("photos/"))
        other = picture(80, 60)
        strange = f"photos/{sha256(other).hexdigest()}.jpg"
        text = f"photos/{sha256(b'no picture').hexdigest()}.jpg"
        for changed, said in (
            ({photo: parts[photo]}, "holds no build.kegcart.json"),
            (parts | {"../evil.txt": b"x"}, "is no part of a build"),
            (parts | {"photos/short.jpg": b"x"}, "is no part of a build"),
            ({build: parts[build], photo: other}, "is another than its name says"),
            ({build: parts[build], strange: other}, "was not kept by this program"),
            ({build: parts[build], text: b"no picture"}, "is broken"),
            ({build: b"{", photo: parts[photo]}, "line 1"),
            ({build: b" " * 8_000_001}, "larger than 8 MB"),
        ):
            out = BytesIO()
            with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
                for name, content in changed.items():
                    made.writestr(name, content)
            shutil.rmtree(self.folder)
            answer = self.imported(out.getvalue())
            self.assertEqual(answer.status_code, 422, said)
            self.assertIn(said, answer.content.decode())
            self.folder.mkdir(exist_ok=True)
        for broken in (whole[: len(whole) // 2], b"PK\x03\x04 and then nothing"):
            self.assertIn("cannot be read", self.imported(broken).json()["message"])
        self.assertEqual(StoredDesign.objects.count(), 1)
