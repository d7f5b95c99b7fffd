"""Five thousand requests made from the API's own description, good and bad: never a 500."""

import json
from collections import Counter
from typing import Any

import schemathesis
from django.test import TransactionTestCase
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st
from pydantic_core import to_json

from kegcart.workbench import services
from kegcart.workbench.api import api
from kegcart.workbench.models import StoredDesign
from kegcart.workbench.services import load_demos
from tests import PROVING

CASES = 5000 if PROVING else 500
EXPECTED = {200, 201, 204, 404, 409, 413, 422}
MODES = [schemathesis.GenerationMode.POSITIVE, schemathesis.GenerationMode.NEGATIVE]

weird = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=20) | st.sampled_from(["90cm", "1.2k", 1e300, -1, "9" * 400]),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=6,
)  # fmt: skip


def pointers(document: Any, at: str = "") -> list[str]:
    """Every pointer of a document."""
    below = [p for key, value in document.items() for p in pointers(value, f"{at}/{key}")] if isinstance(document, dict) else []
    return [at, *below]


class FuzzTest(TransactionTestCase):
    def setUp(self) -> None:
        load_demos()
        self.seen: Counter[int] = Counter()

    def send(self, method: str, path: str, body: bytes | None, media: str = "application/json") -> None:
        answer = self.client.generic(method, path, body or b"", content_type=media)
        self.seen[answer.status_code] += 1
        self.assertIn(answer.status_code, EXPECTED, f"{method} {path} {body!r}")
        if answer.status_code in (413, 422):
            told = answer.json()
            self.assertTrue(told["message"])
            self.assertTrue(all(p["message"] for p in told["problems"]))

    def restore(self) -> None:
        """Fuzzing deletes, changes and adds designs: begin each operation from the demo builds."""
        StoredDesign.objects.all().update(head=None)
        StoredDesign.objects.all().delete()
        load_demos()

    def test_no_500_in_five_thousand_cases(self) -> None:
        schema = schemathesis.openapi.from_dict(api.get_openapi_schema())
        operations = [result.ok() for result in schema.get_all_operations()]
        each = CASES // (len(operations) + 2) + 1
        for operation in operations:
            self.fuzz_operation(operation, each)
        # Operations without parameters run out of different requests early.
        self.fuzz_patches(CASES - sum(self.seen.values()))
        self.assertGreaterEqual(sum(self.seen.values()), CASES)
        self.assertGreater(self.seen[200], CASES // 50)
        self.assertGreater(self.seen[422], CASES // 10)

    def fuzz_operation(self, operation: Any, count: int) -> None:
        """Requests to one operation, made from its description, mostly on a design that is there."""
        self.restore()
        design = StoredDesign.objects.get(demo="tidewater").pk
        cases = st.one_of(*[operation.as_strategy(generation_mode=mode) for mode in MODES])

        @seed(11)
        @settings(
            max_examples=count, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
        )
        @given(cases, st.integers(0, 3))
        def run(case: Any, real: int) -> None:
            if "design_id" in operation.path and real:
                case.path_parameters = {"design_id": design}
            body = None if case.body is None or type(case.body).__name__ == "NotSet" else case.body
            raw = body if isinstance(body, bytes) else None if body is None else to_json(body, inf_nan_mode="constants")
            query = "&".join(f"{k}={v}" for k, v in (case.query or {}).items() if str(v).isascii() and str(k).isascii())
            self.send(case.method, case.formatted_path + ("?" + query if query else ""), raw)

        run()

    def fuzz_patches(self, count: int) -> None:
        """Patches that reach deep into a real document, on its current revision."""
        self.restore()
        design = services.get(StoredDesign.objects.get(demo="lantern-lane").pk)
        every = pointers(design.document)

        @seed(12)
        @settings(
            max_examples=count, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
        )
        @given(
            st.sampled_from(["add", "remove", "replace", "move", "copy", "test"]),
            st.sampled_from(every),
            st.sampled_from(every),
            weird,
        )
        def run(op: str, path: str, source: str, value: Any) -> None:
            now = StoredDesign.objects.get(pk=design.pk).revision
            body = {"base_revision": now, "patch": [{"op": op, "path": path, "from": source, "value": value}]}
            self.send("PATCH", f"/api/designs/{design.pk}", json.dumps(body).encode())

        run()
