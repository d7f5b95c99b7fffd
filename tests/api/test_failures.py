"""Every failure says what it is: as JSON, with its kind, its place, and a trace where the program is at fault."""

import json
import logging
import re
import sqlite3
import stat
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.db import OperationalError
from django.test import Client, TestCase

from kegcart.site.middleware import HEADERS
from kegcart.workbench import services
from kegcart.workbench.models import StoredDesign
from kegcart.workbench.services import load_demos

LANE = "/api/designs/{}"


def because(name: str) -> OperationalError:
    """What Django raises where SQLite fails so."""
    cause = sqlite3.OperationalError("what it says")
    cause.sqlite_errorname = name
    error = OperationalError("what it says")
    error.__cause__ = cause
    return error


class ErrorsTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def setUp(self) -> None:
        self.pk = StoredDesign.objects.get(demo="lantern-lane").pk
        self.at = f"/api/designs/{self.pk}"
        self.quiet = Client(raise_request_exception=False)

    def send(self, body: str | bytes) -> Any:
        return self.quiet.generic("PATCH", self.at, body, content_type="application/json")

    def patch(self, value: Any = 31, pointer: str = "/brief/site_max_c") -> str:
        return json.dumps({"base_revision": 1, "patch": [{"op": "replace", "path": pointer, "value": value}]})

    def test_what_cannot_be_written_is_told_apart_from_what_is_refused_and_what_has_broken(self) -> None:
        for name, kind, words in (
            ("SQLITE_FULL", "cannot-write", "the disk is full. Make room"),
            ("SQLITE_READONLY", "cannot-write", "read-only"),
            ("SQLITE_READONLY_DBMOVED", "cannot-write", "read-only"),
            ("SQLITE_IOERR_WRITE", "cannot-write", "the disk reports an error"),
            ("SQLITE_CANTOPEN", "cannot-write", "cannot be opened"),
            ("SQLITE_BUSY", "busy", "busy"),
            ("SQLITE_CORRUPT", "broken", "has failed"),
        ):
            failing = mock.patch("kegcart.workbench.services.history.follow", side_effect=because(name))
            with failing, self.settings(), mock.patch.object(logging.getLogger("kegcart.workbench.api.errors"), "error"):
                answer = self.send(self.patch())
            self.assertEqual(answer.json()["kind"], kind, name)
            self.assertIn(words, answer.json()["message"])
            self.assertEqual(answer.status_code, {"cannot-write": 507, "busy": 503, "broken": 500}[kind])
        self.assertEqual(services.get(self.pk).revision, 1)
        self.assertEqual(self.send(self.patch("hot")).json()["kind"], "refused")
        self.assertEqual(self.send(self.patch()).status_code, 200)

    def test_a_failure_of_the_program_is_logged_under_the_reference_that_is_shown(self) -> None:
        with (
            mock.patch("kegcart.workbench.api.designs.services.change", side_effect=ZeroDivisionError("of the test")),
            self.assertLogs("kegcart.workbench.api.errors", "ERROR") as log,
        ):
            answer = self.send(self.patch()).json()
        self.assertEqual(answer["kind"], "broken")
        self.assertIn(answer["reference"], answer["message"])
        self.assertTrue(
            re.search(f"reference {answer['reference']}.*Traceback.*ZeroDivisionError: of the test", log.output[0], re.S)
        )

    def test_wrong_addresses_methods_and_hosts_are_answered_as_json(self) -> None:
        for method, path, status in (
            ("GET", "/api/nowhere", 404),
            ("GET", "/api/", 404),
            ("PUT", self.at, 405),
            ("POST", "/api/reference", 405),
            ("GET", "/api/designs/none", 404),
        ):
            answer = self.quiet.generic(method, path)
            self.assertEqual((answer.status_code, answer["Content-Type"].split(";")[0]), (status, "application/json"), path)
            self.assertTrue(answer.json()["message"])
        strange = self.quiet.get("/api/reference", headers={"host": "elsewhere.example"})
        self.assertEqual((strange.status_code, strange.json()["kind"]), (400, "refused"))

    def test_a_failure_outside_the_api_is_answered_too(self) -> None:
        with (
            mock.patch("kegcart.site.urls.built", side_effect=OSError("of the test")),
            self.assertLogs("django.request", "ERROR"),
        ):
            answer = self.quiet.get("/build/x/loads")
        self.assertEqual(answer.status_code, 500)

    def test_bodies_are_read_as_strictly_as_files(self) -> None:
        for body, words in (
            (
                '{"base_revision": 1, "base_revision": 2, "patch": []}',
                "the key 'base_revision' stands twice in one object, again at line 1, column 22",
            ),
            ('{"base_revision": 1, "patch": [{"op": "replace", "path": "/name", "value": "\\ud800"}]}', "half a character"),
            ("[" * 100_000, "nested more than"),
            (b"\xff\xfe", "not UTF-8 text (byte 0)"),
            ("{", "line 1, column 2"),
            (self.patch("a\x00b", "/name"), "U+0000 at place 2 cannot be printed"),
            (self.patch("x", "/name").replace('base_revision": 1', 'base_revision": ' + "9" * 5000), "too large"),
        ):
            answer = self.send(body)
            self.assertEqual(answer.status_code, 422, body[:60])
            self.assertIn(words, json.dumps(answer.json(), ensure_ascii=False))

    def test_a_name_of_any_signs_is_taken_and_drawn(self) -> None:
        for name in ("Fuse {2}", "{", "{0.__class__}", 'a & b <c> "d"', "Κιβώτιο 電源"):
            now = services.get(self.pk).revision
            body = {
                "base_revision": now,
                "patch": [
                    {"op": "replace", "path": p, "value": name}
                    for p in ("/name", "/power/network/main-fuse/name", "/loads/items/projector/name")
                ],
            }
            self.assertEqual(self.send(json.dumps(body)).status_code, 200, name)
            for file in ("power.svg", "power.pdf", "pack.pdf", "loads.csv"):
                self.assertEqual(self.quiet.get(f"{self.at}/{file}").status_code, 200, name)


class WebTest(TestCase):
    def test_every_answer_carries_the_headers_of_safety(self) -> None:
        for path in ("/", "/api/reference", "/api/nowhere", "/static/nowhere.js", "/sw.js"):
            answer = self.client.get(path)
            for name, value in HEADERS.items():
                self.assertEqual(answer[name], value, path)
            self.assertNotIn("Access-Control-Allow-Origin", answer)
        refused = self.client.post("/api/designs", headers={"origin": "http://elsewhere.example"})
        self.assertEqual((refused.status_code, refused["X-Frame-Options"]), (403, "DENY"))

    def test_a_file_of_the_screen_is_served_to_known_hosts_only_and_to_no_other_origin(self) -> None:
        path = "/static/ninja/swagger-ui-init.js"
        known = self.client.get(path)
        self.assertFalse(known.streaming, "sent whole: a file in pieces would hold up the loop")
        self.assertEqual(known.status_code, 200)
        self.assertNotIn("Access-Control-Allow-Origin", known)
        self.assertEqual(self.client.get(path, headers={"host": "elsewhere.example"}).status_code, 400)

    def test_a_change_from_another_site_is_refused_by_every_sign_of_it(self) -> None:
        for headers, status in (
            ({}, 201),
            ({"origin": "http://testserver"}, 201),
            ({"sec-fetch-site": "same-origin", "origin": "http://testserver"}, 201),
            ({"sec-fetch-site": "none"}, 201),
            ({"sec-fetch-site": "cross-site"}, 403),
            ({"sec-fetch-site": "same-site"}, 403),
            ({"origin": "https://testserver"}, 403),
            ({"origin": "http://testserver:81"}, 403),
            ({"origin": "null"}, 403),
        ):
            answer = self.client.post("/api/designs", {"name": "x"}, content_type="application/json", headers=headers)
            self.assertEqual(answer.status_code, status, headers)

    def test_the_test_host_is_known_in_tests_alone(self) -> None:
        read = "import kegcart.site.settings as s; print(s.ALLOWED_HOSTS)"
        with tempfile.TemporaryDirectory() as folder:
            told = subprocess.run(
                [sys.executable, "-c", read],
                env={"KEGCART_DATA": folder},
                cwd=settings.BASE_DIR,
                capture_output=True,
                text=True,
                check=True,
            )
            self.assertNotIn("testserver", told.stdout)

    def test_the_data_folder_is_the_builders_alone(self) -> None:
        with tempfile.TemporaryDirectory() as outer:
            folder = Path(outer) / "data"
            command = [sys.executable, "manage.py", "migrate", "--verbosity", "0"]
            subprocess.run(command, env={"KEGCART_DATA": str(folder)}, cwd=settings.BASE_DIR, check=True)
            self.assertEqual(stat.S_IMODE(folder.stat().st_mode), 0o700)
            modes = {file.name: oct(stat.S_IMODE(file.stat().st_mode)) for file in folder.iterdir() if file.is_file()}
            self.assertEqual(set(modes.values()), {"0o600"}, modes)
