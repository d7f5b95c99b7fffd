"""History is kept small, is never lost, and a build that cannot be read takes no other down."""

import json
import random
from pathlib import Path
from typing import Any
from unittest import mock

from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TestCase, TransactionTestCase

from kegcart.core.design import read_design, write_design
from kegcart.workbench import assessing, history, services
from kegcart.workbench.models import CellClaim, Revision, Snapshot, StoredDesign
from kegcart.workbench.services import DEMO_DIR, load_demos
from tests import PROVING


class Kept(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def setUp(self) -> None:
        self.pk = str(StoredDesign.objects.get(demo="hollow-oak").pk)

    def patch(self, *operations: dict[str, Any], key: str = "") -> dict[str, Any]:
        base = StoredDesign.objects.get(pk=self.pk).revision
        return services.change(self.pk, base, list(operations), "a step", key).design.document

    def step(self, which: str) -> dict[str, Any]:
        return getattr(services, which)(self.pk, StoredDesign.objects.get(pk=self.pk).revision).design.document

    def test_many_steps_lead_back_to_the_beginning_and_forward_again(self) -> None:
        chance = random.Random(7)
        states = [services.get(self.pk).document]
        load = next(iter(states[0]["loads"]["items"].values())) | {"outlet": None}
        for n in range(120 if PROVING else 30):
            operations = [
                {"op": "replace", "path": "/brief/site_max_c", "value": 20 + n / 20},
                {"op": "add", "path": f"/loads/items/lamp-{n}", "value": load | {"name": f"Lamp {n}"}},
                {"op": "replace", "path": "/notes", "value": f"note {n}"},
                {"op": "replace", "path": "/pack/groups", "value": {} if n % 2 else states[0]["pack"]["groups"]},
            ]
            states.append(self.patch(chance.choice(operations)))
        kept = [s for before, s in zip([None, *states], states, strict=False) if s != before]
        whole = Snapshot.objects.filter(revision__design_id=self.pk).count()
        self.assertLessEqual(whole, 2 + len(kept) // history.SNAPSHOT_EVERY)
        for wanted in reversed(kept[:-1]):
            self.assertEqual(self.step("undo"), wanted)
        self.assertEqual(self.step("undo"), kept[0])
        for wanted in kept[1:]:
            self.assertEqual(self.step("redo"), wanted)

    def test_a_word_being_typed_leaves_one_revision(self) -> None:
        before = Revision.objects.count()
        for n in range(1, 30):
            self.patch({"op": "replace", "path": "/notes", "value": "x" * n}, key="/notes")
        self.assertEqual(Revision.objects.count(), before + 1)
        # With no step before it to merge into, typing on is still one step that undo takes back at once.
        self.assertEqual(self.step("undo")["notes"], self.step("undo")["notes"])
        self.assertEqual(self.step("redo")["notes"], "x" * 29)

    def test_typing_over_an_undone_branch_leaves_the_branch_whole(self) -> None:
        self.patch({"op": "replace", "path": "/notes", "value": "a"}, key="/notes")
        self.patch({"op": "replace", "path": "/brief/site_max_c", "value": 31})
        child = StoredDesign.objects.get(pk=self.pk).head_id
        self.step("undo")
        self.patch({"op": "replace", "path": "/notes", "value": "ab"}, key="/notes")
        assert child
        self.assertEqual(history.document_of(Revision.objects.get(pk=child))["notes"], "a")

    def test_a_head_of_an_earlier_version_is_brought_up_to_date_and_led_on_from(self) -> None:
        old = json.loads((DEMO_DIR / "tidewater.json").read_text()) | {"version": 1}
        battery = old["pack"].pop("battery")
        # What charges was said otherwise then.
        del old["charging"], old["power"]["network"]["charge-fuse"], old["power"]["network"]["charge-inlet"]
        old["pack"] |= {name: battery[name] for name in ("series", "capacity_ah", "continuous_a", "mass_kg") if name in battery}
        new = write_design(read_design(old))
        Snapshot.objects.filter(revision__design_id=self.pk).update(text=json.dumps(old))
        self.assertEqual(services.get(self.pk).document, new)
        for n in range(3):
            self.patch({"op": "replace", "path": "/brief/site_max_c", "value": 30 + n})
        for wanted in (31, 30, new["brief"]["site_max_c"]):
            self.assertEqual(self.step("undo")["brief"]["site_max_c"], wanted)

    def test_a_design_stored_before_there_were_units_takes_them(self) -> None:
        old = json.loads((Path(__file__).parents[1] / "core" / "stored" / "version-5-skiff.json").read_text(encoding="utf-8"))
        Snapshot.objects.filter(revision__design_id=self.pk).update(text=json.dumps(old))
        self.patch({"op": "replace", "path": "/brief/units", "value": "us"})
        self.assertEqual(services.get(self.pk).document["brief"]["units"], "us")


class Unreadable(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def setUp(self) -> None:
        self.pk = str(StoredDesign.objects.get(demo="lantern-lane").pk)
        services.change(self.pk, 1, [{"op": "replace", "path": "/brief/site_max_c", "value": 33}], "Hotter")

    def spoil(self, text: str) -> None:
        Snapshot.objects.filter(revision_id=StoredDesign.objects.get(pk=self.pk).head_id).update(text=text)
        StoredDesign.objects.filter(pk=self.pk).update(card_mark="")

    def card(self) -> Any:
        shelf = self.client.get("/api/designs").json()
        others = [item for item in shelf["builds"] if item["id"] != self.pk]
        self.assertTrue(len(others) == 3 and all(item["shown"] for item in others))
        return next(item for item in shelf["builds"] if item["id"] == self.pk)

    def test_damage_a_later_version_and_what_no_rule_allows_are_told_on_the_card(self) -> None:
        good = services.get(self.pk).document
        for text, reason in (
            ('{"format": "kegcart/des', "damaged"),
            (json.dumps(good | {"version": 99}), "later version"),
            (json.dumps(good | {"version": 1, "brief": {"colour": "red"}}), "/brief/colour"),
            (json.dumps(good | {"brief": good["brief"] | {"colour": "red"}}), "/brief/colour"),
            ("[1, 2]", "JSON object"),
            ("", "damaged"),
        ):
            self.spoil(text)
            card = self.card()
            self.assertIn(reason, card["problem"])
            self.assertEqual((card["name"], card["shown"]), ("Lantern Lane Puppet Theatre", None))
            opened = self.client.get(f"/api/designs/{self.pk}")
            self.assertEqual(opened.status_code, 422)
            self.assertEqual(opened.json()["kind"], "unreadable")
            file = self.client.get(f"/api/designs/{self.pk}/file").content.decode().replace(": ", ":").replace(", ", ",")
            self.assertEqual(file, text.replace(": ", ":").replace(", ", ","))

    def test_an_earlier_revision_is_gone_back_to(self) -> None:
        self.spoil("nothing")
        earlier = self.client.get(f"/api/designs/{self.pk}/earlier").json()
        self.assertEqual([r["label"] for r in earlier], ["Demo build"])
        answer = self.client.post(f"/api/designs/{self.pk}/go-back", {"to": earlier[0]["id"]}, content_type="application/json")
        self.assertEqual((answer.status_code, answer.json()["document"]["brief"]["site_max_c"]), (200, 30))
        self.assertEqual(self.card()["problem"], "")
        self.assertEqual(
            self.client.post(f"/api/designs/{self.pk}/go-back", {"to": 10**9}, content_type="application/json").status_code, 404
        )

    def test_it_can_be_taken_off_and_brought_back_and_the_rack_stays_whole(self) -> None:
        self.spoil("nothing")
        self.assertEqual(self.client.get("/api/rack").status_code, 200)
        self.assertEqual(self.client.delete(f"/api/designs/{self.pk}").status_code, 204)
        self.assertEqual(self.client.get("/api/designs?off=true").json()["builds"][0]["id"], self.pk)
        self.assertEqual(self.client.post(f"/api/designs/{self.pk}/restore").status_code, 204)
        self.assertIn("damaged", self.card()["problem"])

    def test_a_program_that_fails_on_one_build_still_shows_the_shelf(self) -> None:
        StoredDesign.objects.update(card_mark="")
        with self.settings(), self.assertLogs("kegcart.workbench.cards", "ERROR"):
            real = assessing.assessed

            def fails(document: dict[str, Any], elsewhere: Any = None) -> Any:
                if document["brief"]["site_max_c"] == 33:
                    raise ZeroDivisionError
                return real(document, elsewhere)

            with mock.patch("kegcart.workbench.cards.assessed", fails):
                self.assertIn("fails", self.card()["problem"])


class Shelved(TestCase):
    def setUp(self) -> None:
        load_demos()
        for name in ("Beta lamp", "alpha Pump", "Gamma"):
            self.client.post("/api/designs", {"name": name}, content_type="application/json")

    def names(self, query: str = "") -> list[str]:
        return [item["name"] for item in self.client.get(f"/api/designs{query}").json()["builds"]]

    def test_own_builds_come_before_demos_the_last_changed_first(self) -> None:
        self.assertEqual(self.names()[:4], ["Gamma", "alpha Pump", "Beta lamp", "Lantern Lane Puppet Theatre"])

    def test_it_is_sorted_by_name_and_by_verdict(self) -> None:
        self.assertEqual(self.names("?order=name")[:3], ["alpha Pump", "Beta lamp", "Gamma"])
        self.assertEqual(self.names("?order=verdict")[3], "The Wobbly Stall")

    def test_it_is_searched_by_words_in_any_case_and_answered_by_pages(self) -> None:
        self.assertEqual(self.names("?search=LAMP beta"), ["Beta lamp"])
        self.assertEqual(self.names("?search=nothing-like-it"), [])
        self.assertEqual(self.names("?limit=2&offset=1"), ["alpha Pump", "Beta lamp"])
        self.assertEqual(self.client.get("/api/designs?limit=1").json()["count"], 7)

    def test_a_card_is_worked_out_once_and_again_after_a_change(self) -> None:
        self.names()
        with self.assertNumQueries(3):
            self.names()
        design = StoredDesign.objects.get(name="Gamma")
        services.change(design.pk, 1, [{"op": "replace", "path": "/name", "value": "Delta"}], "")
        self.assertEqual(self.names()[0], "Delta")


class Claims(TestCase):
    """A cell is in one build."""

    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def setUp(self) -> None:
        self.first = StoredDesign.objects.get(demo="hollow-oak")
        file = services.get(self.first.pk).document | {"name": "Second"}
        self.second = services.create(file, "Imported")

    def found(self, design: StoredDesign) -> list[str]:
        answer = self.client.get(f"/api/designs/{design.pk}").json()
        return [f["text"] for f in answer["assessment"]["findings"] if f["id"] == "pack.cell-elsewhere"]

    def holders(self) -> set[str]:
        return {cell["build"]["name"] for cell in self.client.get("/api/rack").json()["cells"] if cell["build"]}

    def empty(self, design: StoredDesign) -> None:
        base = StoredDesign.objects.get(pk=design.pk).revision
        services.change(design.pk, base, [{"op": "replace", "path": "/pack/groups", "value": {}}], "Taken out")

    def test_an_import_leaves_the_cells_where_they_are_and_says_so(self) -> None:
        self.assertEqual(self.holders(), {"Hollow Oak Apiary"})
        self.assertEqual(self.found(self.first), [])
        self.assertIn("are built into Hollow Oak Apiary", self.found(self.second)[0])

    def test_taken_out_there_they_are_here_and_undo_there_does_not_take_them_back(self) -> None:
        revision = StoredDesign.objects.get(pk=self.second.pk).revision
        self.empty(self.first)
        self.assertEqual((self.holders(), self.found(self.second)), ({"Second"}, []))
        self.assertEqual(StoredDesign.objects.get(pk=self.second.pk).revision, revision + 1, "a screen on it hears of it")
        services.undo(self.first.pk, StoredDesign.objects.get(pk=self.first.pk).revision)
        self.assertEqual(self.holders(), {"Second"})
        self.assertIn("are built into Second", self.found(self.first)[0])

    def test_a_build_that_is_renamed_is_named_so_elsewhere(self) -> None:
        base = StoredDesign.objects.get(pk=self.first.pk).revision
        services.change(self.first.pk, base, [{"op": "replace", "path": "/name", "value": "Old Oak"}], "")
        self.assertIn("are built into Old Oak", self.found(self.second)[0])

    def test_a_build_brought_back_does_not_take_cells_that_went_elsewhere(self) -> None:
        services.delete(self.first.pk)
        self.assertEqual((self.holders(), self.found(self.second)), ({"Second"}, []))
        services.restore(self.first.pk)
        self.assertEqual(self.holders(), {"Second"})
        self.assertIn("are built into Second", self.found(self.first)[0])

    def test_what_is_offered_mends_it(self) -> None:
        answer = self.client.get(f"/api/designs/{self.second.pk}").json()
        finding = next(f for f in answer["assessment"]["findings"] if f["id"] == "pack.cell-elsewhere")
        asked = {"finding": finding["id"], "place": finding["place"]}
        offers = self.client.get(f"/api/designs/{self.second.pk}/remedies", asked).json()
        services.change(self.second.pk, answer["revision"], offers[0]["patch"], "")
        self.assertEqual(self.found(self.second), [])
        self.assertFalse(CellClaim.objects.filter(design=self.second).exists())


class Upgraded(TransactionTestCase):
    """A database of an earlier program, with whole documents at each step."""

    def setUp(self) -> None:
        self.executor().migrate([("workbench", "0003_names_of_stored_rows")])

    def tearDown(self) -> None:
        self.executor().migrate(self.executor().loader.graph.leaf_nodes())

    def executor(self) -> MigrationExecutor:
        return MigrationExecutor(connection)

    def test_every_step_that_undo_led_to_is_still_there_and_it_is_much_smaller(self) -> None:
        old = self.executor().loader.project_state([("workbench", "0003_names_of_stored_rows")]).apps
        designs, revisions = old.get_model("workbench", "StoredDesign"), old.get_model("workbench", "Revision")
        document = write_design(read_design(json.loads((DEMO_DIR / "hollow-oak.json").read_text())))
        design = designs.objects.create()
        parent = revisions.objects.create(design=design, document=document, label="Demo build")
        states = [document]
        for n in range(150):
            document = json.loads(json.dumps(document))
            document["brief"]["site_max_c"] = 20 + n / 10
            for typed in ("note", f"note {n}"):  # each keystroke was a whole document
                document = document | {"notes": typed}
                made = revisions.objects.create(design=design, parent=parent, document=document, merge_key="/notes")
            parent = made
            states.append(document)
        designs.objects.update(head=parent)
        before = self.stored()
        self.executor().migrate(self.executor().loader.graph.leaf_nodes())
        self.assertEqual(Revision.objects.count(), 151)
        self.assertLess(self.stored(), before / 10)
        pk = StoredDesign.objects.get().pk
        self.assertEqual(services.get(pk).document, states[-1])
        self.assertEqual(StoredDesign.objects.get().name, document["name"])
        self.assertTrue(CellClaim.objects.filter(design_id=pk).exists())
        for n, wanted in enumerate(reversed(states[:-1]), 1):
            self.assertEqual(services.undo(pk, n).design.document, wanted)

    def stored(self) -> int:
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA page_count")
            return int(cursor.fetchone()[0])
