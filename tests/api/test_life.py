"""The life of a build over the API: entered once, changed, taken back, read as a table and as a calendar, and carried by its file."""

import json
from datetime import timedelta
from typing import Any

import jsonschema
from django.test import TestCase
from icalendar import Calendar

from kegcart.core.units import calendar_day
from kegcart.workbench import demos, record, services
from kegcart.workbench.api import api
from kegcart.workbench.models import LogEntry, StoredDesign
from kegcart.workbench.services import DEMOS

LANE = "lantern-lane"


class LogTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        demos.load_builds()

    def setUp(self) -> None:
        self.today = record.today()
        self.demo = StoredDesign.objects.get(demo=LANE).pk
        self.design = services.copy(self.demo).pk
        self.at = f"/api/designs/{self.design}"

    def post(self, path: str, body: Any) -> Any:
        return self.client.post(f"{self.at}/{path}", json.dumps(body), content_type="application/json")

    def enter(self, item: str, data: dict[str, Any] | None, entry: str = "") -> Any:
        return self.post("life", {"entry": entry or f"{item}-{LogEntry.objects.count()}", "item": item, "data": data})

    def life(self) -> dict[str, Any]:
        return dict(self.client.get(f"{self.at}/life").json())

    def rows(self, kinds: str = "") -> list[dict[str, Any]]:
        return list(self.client.get(f"{self.at}/timeline", {"kinds": kinds, "limit": 200}).json()["rows"])

    def use(self, days_ago: int, wh: Any = 900) -> dict[str, Any]:
        return {"kind": "use", "on": str(self.today - timedelta(days_ago)), "energy_wh": wh}


class Entered(LogTest):
    def test_a_copy_begins_without_a_log_and_undo_leaves_it(self) -> None:
        self.assertEqual((self.life()["since"], self.life()["begun"], self.rows()), ("", [], []))
        self.enter("a", self.use(3))
        services.change(self.design, 1, [{"op": "replace", "path": "/notes", "value": "x"}], "Note")
        self.client.post(f"{self.at}/undo", json.dumps({"base_revision": 2}), content_type="application/json")
        self.assertEqual([row["title"] for row in self.rows("use")], ["use"])

    def test_sent_twice_it_is_stored_once_and_the_last_counts(self) -> None:
        for _ in range(2):
            self.assertEqual(self.enter("a", self.use(3, "1.2 kWh"), "one").status_code, 200)
        self.enter("a", self.use(4, 700), "two")
        self.assertEqual(self.enter("a", self.use(3, "1.2 kWh"), "one").json()["figures"]["log/out"]["value"], 700)
        self.assertEqual(LogEntry.objects.filter(design=self.design).count(), 2)

    def test_what_is_taken_back_is_gone_and_comes_back(self) -> None:
        self.enter("a", self.use(3))
        self.enter("a", None)
        self.assertEqual((self.rows(), self.life()["since"]), ([], ""))
        self.enter("nothing", None)
        self.enter("a", self.use(3))
        self.assertEqual(len(self.rows()), 1)

    def test_what_was_bought_is_taken_off_what_is_left_to_pay(self) -> None:
        listed = self.client.get(f"{self.at}/assembly").json()["lines"]
        line = next(x for x in listed if x["key"] == "part:inverter")
        before = self.client.get(f"{self.at}/record").json()["figures"]["assembly/left"]["value"]
        total = sum(round(x["cost"]["value"], 2) for x in listed if x["cost"])
        self.assertAlmostEqual(before, total, 2)
        for _ in range(2):
            answer = self.post("record/bought", {"entry": "b1", "line": line["key"], "count": 1}).json()
        self.assertEqual(answer["bought"], {line["key"]: 1})
        self.assertAlmostEqual(before - answer["figures"]["assembly/left"]["value"], line["cost"]["value"], 2)
        self.assertEqual((self.rows(), self.life()["begun"]), ([], []), "it is no entry of the log")
        copied = self.client.post(f"{self.at}/copy").json()["id"]
        self.assertEqual(self.client.get(f"/api/designs/{copied}/record").json()["bought"], {})
        file = self.client.get(f"{self.at}/file").content
        made = self.client.post("/api/designs/import", file, content_type="application/json").json()["id"]
        self.assertEqual(self.client.get(f"/api/designs/{made}/record").json()["bought"], {line["key"]: 1})
        back = self.post("record/bought", {"entry": "b2", "line": line["key"], "count": 0}).json()
        self.assertAlmostEqual(back["figures"]["assembly/left"]["value"], before, 2)
        self.assertEqual(self.post("record/bought", {"entry": "b4", "line": line["key"], "count": True}).status_code, 422)
        refused = self.post("record/bought", {"entry": "b3", "line": "part:gone", "count": 1})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("no line of the list", refused.json()["problems"][0]["message"])

    def test_bad_entries_are_refused_at_their_place(self) -> None:
        self.enter("a", self.use(3))
        for data, pointer in (
            (self.use(-2), "/data/on"),
            (self.use(3, "lots"), "/data/energy_wh"),
            ({"kind": "recharge", "on": "2025-01-01", "energy_wh": 3}, "/data/kind"),
            ({"kind": "sail"}, "/data"),
        ):
            answer = self.enter("a", data)
            self.assertEqual((answer.status_code, answer.json()["problems"][0]["pointer"]), (422, pointer), data)
        self.assertEqual(self.client.get(f"{self.at}/timeline?kinds=sail").status_code, 422)
        self.assertEqual(self.client.get("/api/designs/nowhere/life").status_code, 404)
        self.assertEqual(len(self.rows()), 1)

    def test_the_time_line_is_newest_first_in_parts_and_filtered(self) -> None:
        days_ago = [str(self.today - timedelta(days)) for days in range(70)]
        self.post("life/table", {"text": "date;energy (Wh)\n" + "".join(f"{on};900\n" for on in days_ago), "take": True})
        self.enter("f", {"kind": "fault", "on": str(self.today - timedelta(5)), "what": "Loose", "place": "/pack"})
        services.change(self.design, 1, [{"op": "replace", "path": "/notes", "value": "x"}], "Notes put in")
        first = self.client.get(f"{self.at}/timeline").json()
        self.assertEqual((len(first["rows"]), first["count"], first["counts"]["use"]), (60, 72, 70))
        days = [row["on"] for row in first["rows"]]
        self.assertEqual(days, sorted(days, reverse=True))
        rest = self.client.get(f"{self.at}/timeline?offset=60").json()["rows"]
        self.assertEqual(len({row["item"] or row["title"] for row in [*first["rows"], *rest]}), 72)
        self.assertEqual([(r["title"], r["text"], r["place"]) for r in self.rows("fault")], [("Pack", "Loose", "/pack")])
        self.assertEqual([r["text"] for r in self.rows("change")], ["Notes put in"])
        described = api.get_openapi_schema()["components"]["schemas"]["MomentOut"]["required"]
        self.assertEqual({frozenset(row) for row in self.rows()}, {frozenset(described)})


class Learned(LogTest):
    def test_what_was_measured_of_a_part_is_offered_in_other_builds_until_it_is_taken_back(self) -> None:
        data = {"kind": "measured", "on": str(self.today), "place": "/power/network/inverter", "field": "idle_w", "value": "16 W"}
        self.assertEqual(self.enter("m", data).status_code, 200)
        (row,) = self.rows("measured")
        self.assertEqual((row["title"], row["text"], row["data"]["part"]), ("Inverter", "idle draw 16 W, measured", "inverter"))
        other = StoredDesign.objects.get(demo="hollow-oak").pk

        def offered() -> list[str]:
            parts = self.client.get(f"/api/designs/{other}/parts?part=inverter").json()
            return [p["label"] for p in parts if p["measured"] and p["figures"]["idle_w"] == 16]

        self.assertEqual(offered(), ["Inverter, 2 kW, 25.6 V: idle draw 16 W"])
        self.enter("m", None)
        self.assertEqual(offered(), [])
        self.enter("m", row["data"], "back")
        self.assertEqual(len(offered()), 1)
        services.delete(self.design)
        self.assertEqual(offered(), [])
        self.assertEqual(self.post("life", {"entry": "x", "item": "x", "data": data | {"field": "name"}}).status_code, 404)

    def test_a_pasted_row_says_no_more_of_its_part_than_a_typed_entry(self) -> None:
        head = "date;kind;place;figure;value\n"
        text = f"{head}2026-05-01;measured;/power/network/inverter;idle_w;16.5 W\n"
        self.assertEqual(self.post("life/table", {"text": text, "take": True}).json(), {"count": 1, "new": 1})
        self.assertEqual(self.rows("measured")[0]["data"]["figures"]["rating_w"], 2000)
        bad = self.post("life/table", {"text": f"{head}2026-05-01;measured;/power/network/gone;idle_w;16\n", "take": True}).json()
        self.assertIn("choose a part", bad["problems"][0]["message"])
        self.assertEqual(self.post("life/table", {"text": text, "take": True}).json()["new"], 0)

    def test_a_tested_cell_is_offered_to_other_builds(self) -> None:
        parts = self.client.get("/api/pack/parts").json()
        (cell,) = [p for p in parts if p["measured"]]
        self.assertEqual((cell["kind"], cell["chemistry"], cell["label"][:17]), ("cell", "lfp", "LFP cell, 230 Ah:"))
        self.assertIn("measured in Lantern Lane", cell["source"])

    def test_why_the_design_changed_stands_with_its_changes(self) -> None:
        services.change(self.design, 1, [{"op": "replace", "path": "/notes", "value": "x"}], "Note")
        self.enter("w", {"kind": "note", "on": str(self.today), "what": "its fan was loud", "of": "change"})
        (row,) = self.rows("change")
        self.assertEqual((row["remark"], row["item"], row["data"]["kind"]), ("its fan was loud", "w", "note"))
        self.assertEqual(self.rows("note"), [])
        self.enter("w", None)
        self.assertEqual([(r["remark"], r["item"]) for r in self.rows("change")], [("", "")])
        self.enter("v", {"kind": "note", "on": str(self.today - timedelta(9)), "what": "no change that day", "of": "change"})
        self.assertEqual([r["text"] for r in self.rows("note")], ["no change that day"])


class Carried(LogTest):
    def test_a_table_is_taken_whole_and_not_twice(self) -> None:
        text = "date;kWh;remark\n2025-05-01;1,2;\n2025-05-01;1,2;\n2025-05-02;0,8;rain\n"
        self.assertEqual(self.post("life/table", {"text": text}).json(), {"count": 3, "new": 3})
        self.assertEqual(self.rows(), [])
        self.assertEqual(self.post("life/table", {"text": text, "take": True}).json(), {"count": 3, "new": 3})
        self.assertEqual(self.post("life/table", {"text": text + "2025-05-09;1;\n", "take": True}).json(), {"count": 4, "new": 1})
        bad = self.post("life/table", {"text": text + "2025-05-10;x;\n", "take": True})
        self.assertIn("line 5, column 2", bad.json()["message"])
        self.assertEqual(len(self.rows()), 4)

    def test_the_csv_of_a_lived_build_makes_the_same_log_elsewhere(self) -> None:
        text = self.client.get(f"/api/designs/{self.demo}/life.csv").content.decode("utf-8-sig")
        self.post("life/table", {"text": text, "take": True})
        self.assertEqual(self.client.get(f"{self.at}/life.csv").content.decode("utf-8-sig"), text)
        known, here = self.client.get(f"/api/designs/{self.demo}/life").json()["figures"], self.life()["figures"]
        for path in ("log/entries", "log/uses", "log/out", "log/in", "log/cycles", "log/capacity", "log/share"):
            self.assertEqual(here[path]["text"], known[path]["text"], path)

    def test_the_file_of_a_build_carries_its_record(self) -> None:
        schema = self.client.get("/api/schema/build.json").json()
        for name in DEMOS:
            design = StoredDesign.objects.get(demo=name).pk
            file = self.client.get(f"/api/designs/{design}/file").content
            jsonschema.validate(json.loads(file), schema)
            made = self.client.post("/api/designs/import", file, content_type="application/json").json()["id"]
            self.assertEqual(json.loads(self.client.get(f"/api/designs/{made}/file").content), json.loads(file), name)
            self.assertEqual(
                self.client.get(f"/api/designs/{made}/record").json(), self.client.get(f"/api/designs/{design}/record").json()
            )

    def test_a_bad_purchase_in_a_file_is_named_at_its_row(self) -> None:
        file = json.loads(self.client.get(f"/api/designs/{self.demo}/file").content)
        row = {"kind": "bought", "about": "cells", "at": "2026-01-02T03:04:05Z", "data": {"count": -1}}
        file["record"] = [row]
        answer = self.client.post("/api/designs/import", json.dumps(file), content_type="application/json")
        self.assertEqual((answer.status_code, answer.json()["problems"][0]["pointer"]), (422, "/record/0/data/count"))

    def test_a_file_with_a_bad_record_is_refused_and_makes_no_build(self) -> None:
        file = json.loads(self.client.get(f"/api/designs/{self.demo}/file").content)
        builds = StoredDesign.objects.count()
        step = next(row for row in file["record"] if row["kind"] == "step")
        for row, pointer in (
            ({}, "/record/0/kind"),
            (step | {"kind": "sail"}, "/record/0/kind"),
            (step | {"at": "yesterday"}, "/record/0/at"),
            (step | {"data": {"done": True, "values": {}, "more": 1}}, "/record/0/data/more"),
            (step | {"kind": "use", "data": self.use(-400) | {"remark": ""}}, "/record/0/data/on"),
        ):
            row = {key: value for key, value in row.items() if key != "kind" or value}
            answer = self.client.post(
                "/api/designs/import", json.dumps(file | {"record": [row]}), content_type="application/json"
            )
            self.assertEqual((answer.status_code, answer.json()["problems"][0]["pointer"]), (422, pointer))
        answer = self.client.post("/api/designs/import", json.dumps(file | {"version": 9}), content_type="application/json")
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(StoredDesign.objects.count(), builds)

    def test_visits_come_as_a_calendar_that_others_read(self) -> None:
        self.enter("a", self.use(30))
        made = Calendar.from_ical(self.client.get(f"{self.at}/visits.ics").content)
        events = {str(event["uid"]).partition(".")[0]: event for event in made.walk("VEVENT")}
        self.assertEqual(set(events), {v["key"] for v in self.life()["visits"]})
        self.assertEqual(events["torque"].decoded("dtstart"), self.today)
        self.assertEqual(events["seals"].decoded("dtstart"), self.today + timedelta(365 - 30))
        self.assertEqual(events["seals"]["rrule"]["INTERVAL"], [365])
        self.assertIn("Lantern Lane", str(events["seals"]["summary"]))


class OnTheShelf(LogTest):
    def test_the_card_names_the_visit_that_is_due(self) -> None:
        def due() -> str:
            return next(b["due"] for b in self.client.get("/api/designs").json()["builds"] if b["id"] == self.design)

        self.assertEqual(due(), "")
        self.enter("a", self.use(8))
        on = calendar_day(self.today - timedelta(1))
        self.assertEqual(due(), f"each joint tightened anew due since {on}")
        self.enter("b", {"kind": "visit", "on": str(self.today), "visit": "torque"})
        self.assertEqual(due(), "")


class Demos(LogTest):
    def test_each_has_lived_as_it_is_told(self) -> None:
        def states(name: str) -> list[str]:
            found = self.client.get(f"/api/designs/{StoredDesign.objects.get(demo=name).pk}/record").json()
            return [step["state"] for step in found["steps"]]

        self.assertEqual(set(states(LANE)), {"done"})
        half = states("hollow-oak")
        self.assertEqual((set(half), half.count("done")), ({"done", "open"}, len(half) // 2))
        self.assertEqual(states("tidewater").count("done"), 5)
        self.assertEqual(states("wobbly-stall").count("failed"), 3)
        life = self.client.get(f"/api/designs/{self.demo}/life").json()
        self.assertEqual((life["findings"], life["faults"]), ([], []))
        self.assertEqual(len(life["wear"]["capacities"]), 2)
