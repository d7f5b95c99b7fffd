"""The API: nothing typed or stored is lost, and bad input is said where and why."""

import json
from typing import Any

import jsonschema
from django.test import TestCase

from kegcart.workbench import history
from kegcart.workbench.models import Revision, StoredDesign
from kegcart.workbench.services import DEMOS, load_demos


class ApiTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def send(self, method: str, path: str, body: Any = None) -> Any:
        return getattr(self.client, method)(f"/api{path}", json.dumps(body), content_type="application/json")

    def demo(self, name: str = "lantern-lane") -> dict[str, Any]:
        return self.client.get(f"/api/designs/{StoredDesign.objects.get(demo=name).pk}").json()

    def patch(self, design: dict[str, Any], pointer: str, value: Any, revision: int | None = None, **more: Any) -> Any:
        body = {
            "base_revision": revision or design["revision"],
            "patch": [{"op": "replace", "path": pointer, "value": value}],
            **more,
        }
        return self.send("patch", f"/designs/{design['id']}", body)


class ShelfTest(ApiTest):
    def test_shelf_has_a_card_for_each_demo_build(self) -> None:
        shelf = self.client.get("/api/designs").json()["builds"]
        self.assertEqual([item["demo"] for item in shelf], list(DEMOS))
        self.assertEqual(shelf[0]["shown"]["verdict"]["stop"], 0)
        self.assertGreater(shelf[3]["shown"]["verdict"]["stop"], 0)
        self.assertTrue(shelf[0]["shown"]["diagram"]["items"])

    def test_new_copy_delete_and_restore(self) -> None:
        made = self.send("post", "/designs", {"name": "New build"})
        self.assertEqual(made.status_code, 201)
        copied = self.send("post", f"/designs/{made.json()['id']}/copy")
        self.assertEqual(copied.json()["document"]["name"], "New build, copy")
        path = f"/api/designs/{copied.json()['id']}"
        self.assertEqual(self.client.delete(path).status_code, 204)
        self.assertEqual(self.client.get(path).status_code, 404)
        self.assertEqual(self.client.post(f"{path}/restore").status_code, 204)
        self.assertEqual(self.client.get(path).status_code, 200)

    def test_export_and_import_give_the_same_document(self) -> None:
        design = self.demo()
        file = self.client.get(f"/api/designs/{design['id']}/file")
        self.assertIn("lantern-lane-puppet-theatre.kegcart.json", file["Content-Disposition"])
        again = self.client.post("/api/designs/import", b"\xef\xbb\xbf" + file.content, content_type="application/json")
        self.assertEqual(again.status_code, 201)
        self.assertEqual(again.json()["document"], design["document"])

    def test_demo_builds_are_loaded_once_and_renewed_on_demand(self) -> None:
        self.assertEqual(load_demos(), [])
        self.assertEqual(len(load_demos(reset=True)), len(DEMOS))
        self.assertEqual(len(self.client.get("/api/designs").json()["builds"]), len(DEMOS))


class StartsTest(ApiTest):
    def test_each_kind_of_station_is_sound_as_it_begins(self) -> None:
        for start in self.client.get("/api/reference").json()["starts"]:
            with self.subTest(start["key"]):
                made = self.client.post("/api/designs", {"start": start["key"]}, content_type="application/json")
                self.assertEqual(made.status_code, 201)
                found = made.json()["assessment"]
                self.assertEqual((found["verdict"]["stop"], found["verdict"]["mend"]), (0, 0))
                self.assertEqual(found["next"]["station"], "charging")
                days = self.client.get(f"/api/designs/{made.json()['id']}/forecast").json()
                self.assertEqual([f["text"] for f in days["findings"] if f["severity"] != "note"], [])

    def test_what_is_no_kind_of_station_is_refused(self) -> None:
        answer = self.client.post("/api/designs", {"start": "yacht"}, content_type="application/json")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("no kind of station", answer.json()["message"])


class ChangeTest(ApiTest):
    def test_a_patch_answers_with_the_new_assessment(self) -> None:
        design = self.demo()
        answer = self.patch(design, "/loads/items/fog-machine/watts", "1.5k", label="Fog").json()
        self.assertEqual(answer["revision"], 2)
        self.assertEqual(answer["document"]["loads"]["items"]["fog-machine"]["watts"], 1500)
        self.assertGreater(
            answer["assessment"]["figures"]["power/current"]["value"], design["assessment"]["figures"]["power/current"]["value"]
        )

    def test_a_stale_patch_gets_409_with_the_current_document_and_nothing_is_lost(self) -> None:
        design = self.demo()
        self.patch(design, "/brief/site_max_c", 35)
        stale = self.patch(design, "/brief/site_max_c", 40)
        self.assertEqual(stale.status_code, 409)
        self.assertEqual(stale.json()["current"]["document"]["brief"]["site_max_c"], 35)
        self.assertEqual(self.demo()["document"]["brief"]["site_max_c"], 35)

    def test_undo_and_redo_walk_the_history(self) -> None:
        design = self.demo()
        self.patch(design, "/brief/site_max_c", 35, label="hotter")
        self.patch(design, "/brief/site_max_c", 40, revision=2, label="hotter still")
        undone = self.send("post", f"/designs/{design['id']}/undo", {"base_revision": 3}).json()
        self.assertEqual(
            (undone["document"]["brief"]["site_max_c"], undone["history"]), (35, {"undo": "hotter", "redo": "hotter still"})
        )
        undone = self.send("post", f"/designs/{design['id']}/undo", {"base_revision": 4}).json()
        self.assertEqual(undone["document"], design["document"])
        redone = self.send("post", f"/designs/{design['id']}/redo", {"base_revision": 5}).json()
        self.assertEqual(redone["document"]["brief"]["site_max_c"], 35)
        self.assertEqual(self.send("post", f"/designs/{design['id']}/undo", {"base_revision": 1}).status_code, 409)

    def test_a_change_after_undo_keeps_what_was_undone_in_the_store(self) -> None:
        design = self.demo()
        self.patch(design, "/brief/site_max_c", 35)
        self.send("post", f"/designs/{design['id']}/undo", {"base_revision": 2})
        self.patch(design, "/brief/site_max_c", 45, revision=3)
        kept = [history.document_of(r)["brief"]["site_max_c"] for r in Revision.objects.filter(design_id=design["id"])]
        self.assertEqual(kept, [30, 35, 45])

    def test_typing_in_one_field_is_one_step_of_undo(self) -> None:
        design = self.demo()
        for revision, text in enumerate(("3", "36", "36 ", "36.5"), start=1):
            current = self.demo()["revision"]
            self.assertEqual(
                self.patch(design, "/brief/site_max_c", text, revision=current, merge_key="/brief/site_max_c").status_code,
                200 if revision > 1 else 422,
            )
        undone = self.send("post", f"/designs/{design['id']}/undo", {"base_revision": self.demo()["revision"]}).json()
        self.assertEqual(undone["document"]["brief"]["site_max_c"], 30)

    def test_a_patch_that_changes_nothing_makes_no_revision(self) -> None:
        design = self.demo()
        self.assertEqual(self.patch(design, "/brief/site_max_c", 30).json()["revision"], 1)

    def test_preview_tells_the_effect_and_stores_nothing(self) -> None:
        design = self.demo("wobbly-stall")
        finding = next(f for f in design["assessment"]["findings"] if f["id"] == "loads.energy-short")
        larger = [{"op": "replace", "path": "/pack/parallel", "value": 6}]
        effect = self.send("post", f"/designs/{design['id']}/preview", {"patch": larger}).json()
        self.assertIn(finding["text"], effect["gone"])
        self.assertIn("pack mass", [c["label"] for c in effect["changes"]])
        self.assertEqual(self.demo("wobbly-stall")["revision"], 1)

    def test_school_and_pins_go_through_the_same_door(self) -> None:
        design = self.demo()
        answer = self.patch(design, "/power/network/inverter/run/gauge", "50 mm²").json()
        figure = answer["assessment"]["figures"]["power/inverter/run/gauge"]
        self.assertEqual((figure["value"], figure["choice"]), ("50 mm²", "pinned"))


class BadInputTest(ApiTest):
    def test_each_kind_of_bad_value_gets_422_with_pointer_and_sentence(self) -> None:
        design = self.demo()
        for value in ("a lot", -4, 1e300, None, [], {}, True, "9" * 400):
            answer = self.patch(design, "/loads/items/mixer/watts", value)
            self.assertEqual(answer.status_code, 422, value)
            self.assertIn("/loads/items/mixer", answer.json()["problems"][0]["pointer"])
        raw = '{"base_revision": 1, "patch": [{"op": "replace", "path": "/loads/items/mixer/watts", "value": NaN}]}'
        answer = self.client.patch(f"/api/designs/{design['id']}", raw, content_type="application/json")
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.demo()["document"], design["document"])

    def test_an_unknown_field_is_refused_not_dropped(self) -> None:
        design = self.demo()
        body = {"base_revision": 1, "patch": [{"op": "add", "path": "/brief/colour", "value": "red"}]}
        answer = self.send("patch", f"/designs/{design['id']}", body)
        self.assertEqual((answer.status_code, answer.json()["problems"][0]["pointer"]), (422, "/brief/colour"))
        answer = self.send("patch", f"/designs/{design['id']}", {**body, "extra": 1})
        self.assertEqual((answer.status_code, answer.json()["problems"][0]["pointer"]), (422, "/extra"))

    def test_a_file_of_5_mb_and_a_broken_file(self) -> None:
        answer = self.client.post("/api/designs/import", b" " * 5_000_000, content_type="application/json")
        self.assertEqual(answer.status_code, 413)
        answer = self.client.post("/api/designs/import", b'{"a":\n x}', content_type="application/json")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("line 2, column 2", answer.json()["message"])
        for body in (b"\xff\xfe", b"", b"[]", b'{"name": "\\ud800"}'):
            self.assertEqual(
                self.client.post("/api/designs/import", body, content_type="application/json").status_code, 422, body
            )
        self.assertEqual(StoredDesign.objects.count(), len(DEMOS))

    def test_what_is_not_there_is_404(self) -> None:
        for path in ("/designs/nowhere", "/designs/nowhere/simulation?season=hottest", "/designs/nowhere/forecast", "/nothing"):
            self.assertEqual(self.client.get(f"/api{path}").status_code, 404)

    def test_a_change_from_another_site_is_refused(self) -> None:
        design = self.demo()
        answer = self.client.delete(f"/api/designs/{design['id']}", headers={"origin": "http://elsewhere.example"})
        self.assertEqual(answer.status_code, 403)
        self.assertEqual(self.client.get("/api/designs", headers={"host": "elsewhere.example"}).status_code, 400)


class BenchAndReferenceTest(ApiTest):
    def test_simulation_and_test_plan(self) -> None:
        design = self.demo()
        run = self.client.get(f"/api/designs/{design['id']}/simulation?season=hottest&days=1").json()
        self.assertEqual(len(run["series"]["hour"]), len(run["series"]["charge"]))
        self.assertEqual(run["figures"]["dark"]["value"], 0)
        plan = self.client.get(f"/api/designs/{design['id']}/test-plan").json()
        self.assertGreater(len(plan["steps"]), 8)
        self.assertIn("live:main-fuse", {act["key"] for act in plan["before"]})
        self.assertEqual(self.client.get(f"/api/designs/{design['id']}/simulation?season=coldest&days=99").status_code, 422)

    def test_a_drill_keeps_what_it_dealt_until_it_is_guessed(self) -> None:
        design = self.demo("tidewater")
        at = f"/api/designs/{design['id']}/drill"

        def play(**hand: Any) -> Any:
            return self.client.post(at, {"seed": 4, **hand}, content_type="application/json")

        dealt = play().json()
        self.assertIsNone(dealt["answer"])
        self.assertTrue(any(r["off"] for step in dealt["steps"] for r in step["readings"]))
        probe = dealt["probes"][0]["key"]
        made = play(probes=[probe, probe]).json()["made"]
        self.assertEqual([m["key"] for m in made], [probe])
        told = play(probes=[probe], guess=dealt["faults"][0]["key"]).json()
        self.assertIn(told["answer"]["key"], {f["key"] for f in dealt["faults"]})
        wrong = play(probes=["a hunch"])
        self.assertEqual((wrong.status_code, wrong.json()["problems"][0]["pointer"]), (422, "/probes"))
        self.assertEqual(play(seed=-1).status_code, 422)
        self.assertEqual(self.client.get(f"/api/designs/{design['id']}").json()["revision"], design["revision"])

    def test_the_forecast_judges_both_seasons(self) -> None:
        stall = self.client.get(f"/api/designs/{self.demo('wobbly-stall')['id']}/forecast").json()
        self.assertIn("bench.trip", {f["id"] for f in stall["findings"]})
        places = {c["place"] for c in stall["checks"] if not c["id"].startswith(("box.", "assembly."))}
        at_loads = {place for place in places if place.startswith("/loads/items/")}
        self.assertEqual(places - at_loads, {"/brief/site_min_c", "/brief/site_max_c"})
        self.assertGreater(len(at_loads), 2)
        for check in stall["checks"]:
            if not check["id"].startswith(("box.", "assembly.")):
                self.assertIn(check["figure"]["path"], stall["figures"])

    def test_every_sized_choice_can_be_pinned_to_what_its_list_offers(self) -> None:
        design = self.demo()
        options = self.client.get("/api/reference").json()["options"]
        revision = 1
        for path, figure in design["assessment"]["figures"].items():
            if figure.get("choice") and figure.get("options"):
                offered = options[figure["options"]]
                self.assertTrue(offered, path)
                answer = self.patch(design, figure["pointer"], offered[0]["value"], revision=revision)
                self.assertEqual(answer.status_code, 200, f"{path}: {answer.json().get('message')}")
                revision = answer.json()["revision"]

    def test_schema_is_published_and_accepts_the_demo_builds(self) -> None:
        schema = self.client.get("/api/schema/design.json").json()
        self.assertEqual(schema["properties"]["format"]["const"], "kegcart/design")
        for name in ("lantern-lane", "tidewater", "wobbly-stall"):
            jsonschema.validate(self.demo(name)["document"], schema)

    def test_docs_fetch_nothing_from_outside(self) -> None:
        page = self.client.get("/api/docs").content.decode()
        self.assertNotIn("https://", page)
        self.assertNotIn("//cdn", page)

    def test_screen_is_served_for_every_address_but_the_apis(self) -> None:
        for path in ("/", "/build/abc/loads"):
            answer = self.client.get(path)
            self.assertContains(answer, '<div id="root">')
            self.assertNotIn(b"https://", answer.content)
        self.assertEqual(self.client.get("/static/none.js").status_code, 404)


class ChargingTest(ApiTest):
    def test_a_source_is_added_joined_and_taken_away_again(self) -> None:
        design = self.demo("tidewater")
        added = {"op": "add", "path": "/charging/sources/shore", "value": {"kind": "mains", "name": "Shore power"}}
        answer = self.client.patch(
            f"/api/designs/{design['id']}",
            {"base_revision": 1, "patch": [added], "label": "Shore"},
            content_type="application/json",
        ).json()
        told = {s["key"]: s for s in answer["assessment"]["charging"]}
        self.assertEqual(
            (told["shore"]["joins"], told["shore"]["bank"], told["tow-car"]["joins"]), (None, "pack", "charge-inlet")
        )
        finding = next(f for f in answer["assessment"]["findings"] if f["place"] == "/charging/sources/shore")
        self.assertEqual((finding["id"], finding["station"]), ("charging.not-connected", "charging"))
        self.assertIn("charging/shore/set_point", answer["assessment"]["figures"])

    def test_what_no_source_can_be_is_refused_at_its_place(self) -> None:
        design = self.demo("tidewater")
        for path, value, at in (
            ("/charging/sources/tow-car/kind", "treadmill", "/charging/sources/tow-car"),
            ("/charging/sources/tow-car/current_a", -3, "/charging/sources/tow-car/current_a"),
            ("/charging/sources/tow-car/run/gauge", "thick", "/charging/sources/tow-car/run/gauge"),
            ("/power/network/charge-inlet/source", "nobody", ""),
            ("/power/network/pump/source", "tow-car", ""),
        ):
            answer = self.patch(design, path, value)
            self.assertEqual(answer.status_code, 422, path)
            self.assertEqual(answer.json()["problems"][0]["pointer"], at)

    def test_the_year_and_what_the_sun_offers_are_told(self) -> None:
        design = self.demo("hollow-oak")
        figures = design["assessment"]["figures"]
        for month in range(1, 13):
            self.assertIn(f"charging/barn/yield/{month}", figures)
            self.assertEqual(f"charging/year/pack/{month}/rest" in figures, month in (1, 11, 12))
        url = f"/api/designs/{design['id']}/simulation"
        winter, summer = (self.client.get(url, {"season": s}).json()["offers"] for s in ("coldest", "hottest"))
        self.assertEqual((list(winter), list(summer)), (["barn"], ["barn"]))
        dawn = [min(a % 24 for a, _, _ in offers["barn"]) for offers in (winter, summer)]
        self.assertGreater(dawn[0], dawn[1] + 2)
        whole = [sum((b - a) * watts for a, b, watts in offers["barn"]) for offers in (winter, summer)]
        self.assertGreater(whole[1], 3 * whole[0])

    def test_the_sun_typed_wrongly_is_refused_at_its_place(self) -> None:
        design = self.demo("hollow-oak")
        for path, value in (
            ("/charging/sun/sun_hours", "1 2 3"),
            ("/charging/sun/climate", "the moon"),
            ("/charging/sun/latitude_deg", 91),
            ("/charging/sources/barn/tilt_deg", 120),
            ("/charging/sources/barn/facing_deg", "sunwards"),
            ("/charging/pad/watts", "warm"),
        ):
            answer = self.patch(design, path, value)
            self.assertEqual(answer.status_code, 422, path)
            self.assertTrue(answer.json()["problems"][0]["pointer"].startswith(path), answer.json())

    def test_every_kind_can_be_added_as_the_screen_adds_it(self) -> None:
        design = self.demo("hollow-oak")
        for revision, kind in enumerate(self.client.get("/api/reference").json()["sources"], 1):
            value = {"kind": kind["key"], "name": kind["first_name"]}
            patch = [{"op": "add", "path": f"/charging/sources/s{revision}", "value": value}]
            body = {"base_revision": revision, "patch": patch, "label": kind["add"]}
            answer = self.client.patch(f"/api/designs/{design['id']}", body, content_type="application/json")
            self.assertEqual(answer.status_code, 200, kind["key"])
            for field in kind["fields"]:
                self.assertTrue(field["label"])
                if field["control"] == "choice":
                    self.assertGreater(len(field["options"]), 1, field["field"])
