"""The history of a design: a tree of whole revisions, in which nothing that was answered is ever lost."""

import io
import json
from datetime import UTC, datetime, timedelta
from typing import Any
from unittest.mock import patch

from django.core.management import call_command
from django.test import TestCase

from kegcart.workbench import services
from kegcart.workbench.models import RackCell, Revision, StoredDesign
from kegcart.workbench.services import DEMOS, MERGE_WITHIN_S, load_demos


class HistoryTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def setUp(self) -> None:
        self.pk = str(StoredDesign.objects.get(demo="tidewater").pk)
        self.clock = 1000.0
        ticking = patch("kegcart.workbench.services.time.monotonic", lambda: self.clock)
        ticking.start()
        self.addCleanup(ticking.stop)

    def put(self, value: Any, pointer: str = "/brief/site_max_c", **more: Any) -> StoredDesign:
        base = StoredDesign.objects.get(pk=self.pk).revision
        return services.change(
            self.pk, base, [{"op": "replace", "path": pointer, "value": value}], more.get("label", ""), more.get("key", "")
        ).design

    def now(self) -> Any:
        return services.get(self.pk).document["brief"]["site_max_c"]

    def step(self, which: str) -> None:
        getattr(services, which)(self.pk, StoredDesign.objects.get(pk=self.pk).revision)

    def test_undo_goes_back_to_the_beginning_and_no_further(self) -> None:
        for value in (30, 31, 32):
            self.put(value)
        seen = []
        for _ in range(5):
            self.step("undo")
            seen.append(self.now())
        self.assertEqual(seen, [31, 30, 28, 28, 28])

    def test_redo_goes_forward_to_the_last_and_no_further(self) -> None:
        for value in (30, 31):
            self.put(value)
        for _ in range(2):
            self.step("undo")
        seen = []
        for _ in range(4):
            self.step("redo")
            seen.append(self.now())
        self.assertEqual(seen, [30, 31, 31, 31])

    def test_redo_follows_the_branch_made_last(self) -> None:
        self.put(30)
        self.step("undo")
        self.put(40)
        self.step("undo")
        self.step("redo")
        self.assertEqual(self.now(), 40)
        self.assertEqual(Revision.objects.filter(design_id=self.pk).count(), 3)

    def test_every_step_counts_the_revision_on(self) -> None:
        self.put(30)
        self.step("undo")
        self.step("redo")
        self.assertEqual(StoredDesign.objects.get(pk=self.pk).revision, 4)

    def test_typing_merges_only_while_it_goes_on(self) -> None:
        self.put(30, key="/brief/site_max_c")
        self.put(31, key="/brief/site_max_c")
        self.clock += MERGE_WITHIN_S + 1
        self.put(32, key="/brief/site_max_c")
        self.step("undo")
        self.assertEqual(self.now(), 31)
        self.step("undo")
        self.assertEqual(self.now(), 28)

    def test_a_clock_that_jumps_changes_nothing(self) -> None:
        for n, days in enumerate((0, -400, 400), 1):
            with patch("django.utils.timezone.now", lambda days=days: datetime(2026, 6, 1, tzinfo=UTC) + timedelta(days=days)):
                self.put(30 + n, key="/brief/site_max_c")
                self.clock += 1
        self.step("undo")
        self.assertEqual(self.now(), 28)
        self.step("redo")
        self.assertEqual(self.now(), 33)

    def test_a_change_between_ends_the_merging(self) -> None:
        self.put(30, key="/brief/site_max_c")
        self.put(0.3, pointer="/brief/reserve", key="/brief/reserve")
        self.put(31, key="/brief/site_max_c")
        self.step("undo")
        self.assertEqual(self.now(), 30)

    def test_labels_say_where_undo_and_redo_lead(self) -> None:
        self.put(30, label="Hotter")
        at = f"/api/designs/{self.pk}"
        self.assertEqual(self.client.get(at).json()["history"], {"undo": "Hotter", "redo": None})
        self.step("undo")
        self.assertEqual(self.client.get(at).json()["history"], {"undo": None, "redo": "Hotter"})

    def test_a_copy_begins_a_history_of_its_own(self) -> None:
        self.put(30)
        copy = services.copy(self.pk)
        services.undo(str(copy.pk), 1)
        self.assertEqual(StoredDesign.objects.get(pk=copy.pk).revision, 1)
        self.assertEqual(self.now(), 30)

    def test_what_is_taken_off_the_shelf_cannot_be_changed_and_comes_back_as_it_was(self) -> None:
        self.put(30)
        services.delete(self.pk)
        with self.assertRaises(services.MissingError):
            self.put(31)
        services.restore(self.pk)
        self.assertEqual(self.now(), 30)
        self.step("undo")
        self.assertEqual(self.now(), 28)


class Commands(TestCase):
    def told(self, *arguments: str) -> str:
        out = io.StringIO()
        call_command(*arguments, stdout=out)
        return out.getvalue()

    def test_demo_builds_are_loaded_once(self) -> None:
        self.assertIn(", ".join(DEMOS), self.told("load_demo"))
        self.assertIn("all there", self.told("load_demo"))
        self.assertEqual(StoredDesign.objects.count(), len(DEMOS))
        self.assertEqual(RackCell.objects.count(), 320)

    def test_renewed_demo_builds_leave_the_builders_own_alone(self) -> None:
        self.told("load_demo")
        mine = services.copy(str(StoredDesign.objects.get(demo="tidewater").pk))
        self.told("load_demo", "--reset")
        shelf = StoredDesign.objects.filter(deleted_at__isnull=True)
        self.assertIn(mine.pk, [d.pk for d in shelf])
        self.assertEqual(shelf.exclude(demo="").count(), len(DEMOS))

    def test_a_demo_build_taken_off_the_shelf_is_not_put_back_unasked(self) -> None:
        self.told("load_demo")
        services.delete(str(StoredDesign.objects.get(demo="tidewater").pk))
        self.told("load_demo")
        self.assertFalse(StoredDesign.objects.filter(demo="tidewater", deleted_at__isnull=True).exists())

    def test_the_description_of_the_api_is_printed_as_json(self) -> None:
        described = json.loads(self.told("export_openapi"))
        self.assertIn("/api/designs/{design_id}", described["paths"])
        self.assertEqual(described["openapi"].split(".")[0], "3")
