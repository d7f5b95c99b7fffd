"""Every finding as it comes over the API: at its station, with remedies whose effect is told before they are taken."""

import json
from typing import Any

from django.test import TestCase

from tests import PROVING
from tests.core.samples import demo, put
from tests.core.test_findings import SPEAKS, WITHOUT_REMEDY, spoiled

STATIONS = ("brief", "loads", "pack", "charging", "power", "box", "bench")


class FindingsOverTheApi(TestCase):
    def send(self, method: str, path: str, body: Any) -> Any:
        return self.client.generic(method, f"/api{path}", json.dumps(body), content_type="application/json")

    def imported(self, document: dict[str, Any]) -> dict[str, Any]:
        answer = self.send("POST", "/designs/import", document)
        self.assertEqual(answer.status_code, 201, answer.content[:300])
        return dict(answer.json())

    def test_each_is_shown_at_a_station_with_its_figures_and_working(self) -> None:
        for finding in SPEAKS:
            design = self.imported(spoiled(finding))
            found = next((f for f in design["assessment"]["findings"] if f["id"] == finding), None)
            with self.subTest(finding):
                assert found is not None
                self.assertIn(found["station"], STATIONS)
                self.assertGreater(len(found["why"]), 20)
                sheet = design["assessment"]["figures"]
                for name, figure in found["figures"].items():
                    text = (figure if "text" in figure else sheet[figure["path"]])["text"]
                    if f"{{{name}}}" in found["sentence"]:
                        self.assertIn(text, found["text"], f"{name} is not named in “{found['text']}”")

    def test_the_effect_of_each_remedy_is_told_and_is_what_happens(self) -> None:
        for finding in list(SPEAKS)[:: 1 if PROVING else 12]:
            design = self.imported(spoiled(finding))
            found = next(f for f in design["assessment"]["findings"] if f["id"] == finding)
            with self.subTest(finding):
                self.assertEqual(found["remedies"], [] if finding in WITHOUT_REMEDY else None)
                offers = self.offers(design, found)
                if not offers:
                    continue
                told = offers[0]
                body = {"base_revision": design["revision"], "patch": told["patch"], "label": told["label"]}
                after = self.send("PATCH", f"/designs/{design['id']}", body).json()
                was = {f["text"] for f in design["assessment"]["findings"]}
                now = {f["text"] for f in after["assessment"]["findings"]}
                self.assertEqual(told["verdict"], after["assessment"]["verdict"])
                self.assertLessEqual(set(told["gone"]), was)
                self.assertFalse(set(told["gone"]) & now)
                self.assertLessEqual(set(told["new"]), now)
                self.assertTrue(all(c["before"] != c["after"] for c in told["changes"]), told["changes"])
                self.assertEqual(after["history"]["undo"], told["label"])
                self.assertNotIn((finding, found["place"]), {(f["id"], f["place"]) for f in after["assessment"]["findings"]})

    def offers(self, design: dict[str, Any], found: dict[str, Any]) -> list[dict[str, Any]]:
        asked = {"finding": found["id"], "place": found["place"]}
        return list(self.client.get(f"/api/designs/{design['id']}/remedies", asked).json())

    def test_a_finding_that_is_gone_has_nothing_to_offer(self) -> None:
        design = self.imported(demo("tidewater"))
        self.assertEqual(self.offers(design, {"id": "power.drop", "place": "/power/network/pump/run"}), [])

    def test_a_remedy_is_one_step_of_undo_however_much_it_takes_along(self) -> None:
        design = self.imported(demo("wobbly-stall"))
        offers = [o for f in design["assessment"]["findings"] if f["severity"] == "stop" for o in self.offers(design, f)]
        remedy = max(offers, key=lambda offer: len(offer["patch"]))
        self.assertGreater(len(remedy["patch"]), 1)
        self.send("PATCH", f"/designs/{design['id']}", {"base_revision": 1, "patch": remedy["patch"], "label": remedy["label"]})
        undone = self.send("POST", f"/designs/{design['id']}/undo", {"base_revision": 2}).json()
        self.assertEqual(undone["document"], design["document"])
        self.assertEqual(undone["assessment"]["verdict"], design["assessment"]["verdict"])

    def test_a_preview_of_nonsense_is_refused_and_stores_nothing(self) -> None:
        design = self.imported(demo("tidewater"))
        for patch in (
            [{"op": "replace", "path": "/nowhere/at/all", "value": 1}],
            [{"op": "replace", "path": "/brief/site_max_c", "value": "hot"}],
            [{"op": "remove", "path": "/power/network/main-fuse"}],
        ):
            answer = self.send("POST", f"/designs/{design['id']}/preview", {"patch": patch})
            self.assertEqual(answer.status_code, 422, patch)
            self.assertTrue(answer.json()["problems"][0]["message"])
        self.assertEqual(self.client.get(f"/api/designs/{design['id']}").json()["revision"], 1)

    def test_the_verdict_counts_what_is_listed(self) -> None:
        for name in ("lantern-lane", "hollow-oak", "tidewater", "wobbly-stall"):
            found = self.imported(demo(name))["assessment"]
            counted = {s: sum(f["severity"] == s for f in found["findings"]) for s in ("stop", "mend", "note")}
            self.assertEqual(found["verdict"], counted, name)

    def test_what_mends_one_build_is_no_remedy_without_its_cause(self) -> None:
        """A build with nothing wrong offers nothing to mend: remedies come with findings only."""
        sound = self.imported(put(demo("lantern-lane"), "/power/network/inverter/bond", "as its manual says"))
        self.assertEqual([f for f in sound["assessment"]["findings"] if f["severity"] != "note"], [])
