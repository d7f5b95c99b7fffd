"""Requests made from the API's own description, good and bad, patches and spoiled designs: never a 500."""

import json
from typing import Any

from django.test import TransactionTestCase

from kegcart.workbench import services
from kegcart.workbench.api import api
from kegcart.workbench.attack.fuzz import Fuzz
from kegcart.workbench.services import DEMO_DIR, load_demos
from tests import PROVING

CASES = 5000 if PROVING else 150


class FuzzTest(TransactionTestCase):
    """The application itself is the target."""

    def setUp(self) -> None:
        load_demos()

    def send(self, method: str, path: str, body: bytes | None) -> tuple[int, bytes]:
        answer = self.client.generic(method, path, body or b"", content_type="application/json")
        return answer.status_code, answer.content

    def design(self, name: str) -> str:
        return services.create(json.loads((DEMO_DIR / f"{name}.json").read_text(encoding="utf-8")), "Attacked").pk

    def standing(self, design: str) -> tuple[int, Any]:
        stored = services.get(design)
        return stored.revision, stored.document

    def test_no_500_in_hundreds_of_cases(self) -> None:
        fuzz = Fuzz(self, 11)
        fuzz.everything(CASES, api.get_openapi_schema())
        self.assertEqual(fuzz.wrong, [])
        self.assertGreaterEqual(sum(fuzz.seen.values()), CASES)
        self.assertGreater(fuzz.seen[200], CASES // 50)
        self.assertGreater(fuzz.seen[422], CASES // 10)
