"""An answer carries what changed: applied to what stood before it gives the whole, and it is small."""

import json
from typing import Any

import jsonpatch
from django.test import TestCase

from kegcart.workbench.api.changes import LISTS, kept
from kegcart.workbench.models import StoredDesign
from kegcart.workbench.services import DEMOS, load_demos

MOST_BYTES = 40_000


def merged(before: list[Any], after: list[Any]) -> list[Any]:
    out = []
    for entry in after:
        if isinstance(entry, dict) and "was" in entry:
            entry = patched(before[entry["was"]], entry["now"])
        out.append(before[entry] if isinstance(entry, int) else entry)
    return out


def patched(before: Any, change: Any) -> Any:
    """RFC 7396."""
    if not isinstance(change, dict):
        return change
    out = dict(before) if isinstance(before, dict) else {}
    for name, value in change.items():
        if value is None:
            out.pop(name, None)
        else:
            out[name] = patched(out.get(name), value)
    return out


def followed(before: dict[str, Any], changes: dict[str, Any]) -> dict[str, Any]:
    """What a screen makes of a design and an answer that says what changed."""
    old = before["assessment"]
    figures = {p: f for p, f in old["figures"].items() if p not in changes["gone"]}
    for path, change in changes["figures"].items():
        figures[path] = patched(figures.get(path, {}), change)
    diagram = {name: merged(before["diagram"][name], changes["diagram"][name]) for name in ("items", "areas")}
    return {
        "id": before["id"],
        "revision": changes["revision"],
        "document": jsonpatch.apply_patch(before["document"], changes["document"]),
        "assessment": {
            "figures": figures,
            "verdict": changes["verdict"],
            "next": changes["next"],
            "begun": changes["begun"],
            "charging": changes["charging"],
            "suits_12v": changes["suits_12v"],
            **{n: merged(old[n], changes[n]) for n in (*LISTS, "checks")},
        },
        "diagram": {**changes["diagram"], **diagram},
        "wires": merged(before["wires"], changes["wires"]),
        "day": changes["day"] or before["day"],
        "plugged": changes["plugged"],
        "history": changes["history"],
    }


class Changes(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def send(self, verb: str, path: str, body: dict[str, Any]) -> Any:
        return getattr(self.client, verb)(f"/api/designs/{path}", json.dumps(body), content_type="application/json")

    def whole(self, pk: str) -> Any:
        return self.client.get(f"/api/designs/{pk}").json()

    def changed(self, pk: str, patch: list[dict[str, Any]]) -> bytes:
        body = {"base_revision": self.whole(pk)["revision"], "patch": patch}
        return bytes(self.send("patch", f"{pk}?answer=changes", body).content)

    def test_what_changed_gives_the_whole(self) -> None:
        for name in DEMOS:
            pk = str(StoredDesign.objects.get(demo=name).pk)
            document = self.whole(pk)["document"]
            load, part = next(iter(document["loads"]["items"])), list(document["power"]["network"])[-1]
            for patch in (
                [{"op": "replace", "path": f"/loads/items/{load}/watts", "value": 177}],
                [{"op": "replace", "path": "/brief/site_min_c", "value": -12}],
                [{"op": "replace", "path": f"/power/network/{part}/run/length_m", "value": 3}],
                [{"op": "add", "path": "/power/network/tail", "value": {"part": "switch", "name": "Tail", "feed": "pack"}}],
                [{"op": "remove", "path": "/power/network/tail"}],
                [{"op": "replace", "path": "/loads/items", "value": {}}],
                [{"op": "replace", "path": "/pack", "value": {"form": "battery", "chemistry": "agm", "battery": {"series": 6}}}],
                [{"op": "replace", "path": "/name", "value": "Another"}],
            ):
                before = self.whole(pk)
                self.assertEqual(followed(before, json.loads(self.changed(pk, patch))), self.whole(pk), f"{name} {patch}")
            for step in ("undo", "redo"):
                before = self.whole(pk)
                answer = self.send("post", f"{pk}/{step}?answer=changes", {"base_revision": before["revision"]})
                self.assertEqual(followed(before, answer.json()), self.whole(pk))

    def test_one_typed_figure_is_answered_by_little(self) -> None:
        for name in DEMOS:
            pk = str(StoredDesign.objects.get(demo=name).pk)
            for load in self.whole(pk)["document"]["loads"]["items"]:
                answer = self.changed(pk, [{"op": "replace", "path": f"/loads/items/{load}/count", "value": 2}])
                self.assertLess(len(answer), MOST_BYTES, f"{name}: {load}")

    def test_a_list_names_what_stood_before_by_its_place(self) -> None:
        before = ["a", "b", "c", "d"]
        self.assertEqual(kept(before, ["a", "c", "x", "d"]), [0, 2, "x", 3])
        for after in (["d"], [], ["x", "a", "b", "c", "d"], ["b", "a"], ["a", "a"]):
            self.assertEqual(merged(before, kept(before, after)), after)
