"""Nothing is forgotten: every kind of part, form of pack and supply has all its duties, and is given the checks it owes."""

from dataclasses import replace
from typing import Any, get_args
from unittest import TestCase

from kegcart.core.catalogue import CATALOGUE
from kegcart.core.catalogue_page import page
from kegcart.core.charging.kinds import SOURCE_KINDS
from kegcart.core.check import Verdict, closest_first
from kegcart.core.drawing import PAPER, Box, Role
from kegcart.core.finding import Severity
from kegcart.core.loads.supplies import SUPPLIES, Supply
from kegcart.core.owed import never_made, owed
from kegcart.core.pack.document import Pack
from kegcart.core.pack.forms import FORMS
from kegcart.core.power.drawing.diagram import draw_path
from kegcart.core.power.kinds import KINDS, Node, kind_of
from kegcart.core.power.kinds.base import LINE
from kegcart.core.power.rules.devices import may_flow
from kegcart.core.reference import connectors, load_kinds
from kegcart.core.units import read_quantity
from tests.core.samples import BUILT, DEMO_NAMES, RECORDED, SIMULATED, demo, document, judge, mains, put, window
from tests.core.test_findings import SPEAKS, judged


def every_source() -> dict[str, Any]:
    """A charging source of every kind; the first is the one that an input names."""
    return {"shore": mains(17)} | {key.replace("_", "-"): {"kind": key, "name": key.title()} for key in SOURCE_KINDS}


def every_kind() -> dict[str, Any]:
    """A path with a part of every kind, a second bank, a shunt and loads on each supply."""
    network: dict[str, Any] = {}

    def add(key: str, part: str, feed: str, **more: Any) -> None:
        network[key] = {"part": part, "name": key.title(), "feed": feed, "run": {"length_m": 0.2}, **more}

    add("main", "protection", "pack")
    add("isolator", "switch", "main")
    add("bar", "busbar", "isolator", studs=8)
    add("inverter", "inverter", "bar")
    add("ac", "ac_breaker", "inverter")
    add("mains", "outlet", "ac")
    network["mains"]["run"] = {"length_m": 2}
    add("block-fuse", "protection", "bar")
    add("block", "fuse_block", "block-fuse")
    for supply, feed in (("converter", "block"), ("usb", "block"), ("lamp", "block"), ("tail", "block"), ("choice", "block")):
        add(f"{supply}-fuse", "protection", feed)
    add("converter", "converter", "converter-fuse", window_min_v=10, window_max_v=70)
    add("twelve", "outlet", "converter")
    add("usb", "outlet", "usb-fuse", usb=True, ways=2)
    add("lamp", "outlet", "lamp-fuse")
    add("quick", "plug", "tail-fuse")
    add("tail", "outlet", "quick")
    add("second-fuse", "protection", "second")
    add("choice", "selector", "choice-fuse", other="second-fuse")
    add("either", "outlet", "choice")
    add("sun-fuse", "protection", "bar")
    add("sun", "input", "sun-fuse", source="shore")
    items = {
        supply.replace("_", "-"): {"name": supply, "supply": supply, "watts": 20, "windows": window(8, 12), "kind": "electronics"}
        for supply in get_args(Supply)
    }
    items |= {f"at-{outlet}": {**items["pack"], "name": outlet, "outlet": outlet} for outlet in ("tail", "either")}
    return document(
        loads={"items": items},
        power={"network": network, "shunt": {}, "banks": {"second": {"name": "Second bank", "series": 8}}},
        charging={"sources": every_source()},
    )


class Kinds(TestCase):
    def setUp(self) -> None:
        self.assessment = judge(every_kind())

    def test_every_part_of_the_document_has_its_kind_and_every_kind_its_part(self) -> None:
        models = set(get_args(get_args(Node)[0]))
        self.assertEqual(models, {kind.model for kind in KINDS.values()})
        for key, kind in KINDS.items():
            self.assertEqual(get_args(kind.model.model_fields["part"].annotation), (key,))
        self.assertEqual({part.node.part for part in self.assessment.power.parts.values()}, set(KINDS), "sample lacks a kind")

    def test_what_hands_on_the_current_of_a_source_is_named_as_such(self) -> None:
        handing_on = {
            key
            for key, kind in KINDS.items()
            if kind.facts.role in ("protects", "passes", "spreads") and kind.facts.fed_by != {"inverter"}
        }
        self.assertEqual(LINE, {"pack", *handing_on})

    def test_what_a_kind_says_of_its_fields_is_so(self) -> None:
        for kind in KINDS.values():
            fields, facts = kind.model.model_fields, kind.facts
            named = {c.field for c in facts.choices} | {f.field for f in facts.fields if "/" not in f.field} | set(facts.own)
            self.assertLessEqual(named | {f.needs for f in facts.fields if f.needs}, set(fields), kind.key)
            self.assertLessEqual(facts.fed_by, {"pack", *KINDS}, kind.key)
            self.assertTrue(facts.fed_by, f"nothing may feed {kind.key}")
            asked = {c.field for c in facts.choices} | {f.field for f in facts.fields}
            unasked = set(fields) - asked - {"part", "name", "feed", "run", "other_run", "negative"}
            self.assertLessEqual(unasked, UNASKED.get(kind.key, set()), f"no way to decide {unasked} of {kind.key}")
            for field in facts.fields:
                if field.unit:
                    read_quantity("1", field.unit)

    def test_choices_are_figures_of_the_parts_and_carry_what_the_design_writes(self) -> None:
        a = self.assessment
        for key, part in a.power.parts.items():
            for choice in kind_of(part.node).facts.choices:
                figure = a.figures.get(f"power/{key}/{choice.figure}")
                if choice.figure in ("ac_breaker", "leg") and figure is None:
                    continue  # a socket that stands on DC, behind a breaker that protects it, or on mains of one phase
                assert figure is not None, f"{choice.figure} of {key} is not worked out"
                self.assertEqual(figure.pointer, f"{part.pointer}/{choice.field}")
                pinned = judge(put(every_kind(), figure.pointer, figure.key or figure.value))
                self.assertEqual(pinned.figures[f"power/{key}/{choice.figure}"].value, figure.value)

    def test_what_is_brought_in_reaches_the_cable_to_it(self) -> None:
        a = self.assessment
        for key, part in a.power.parts.items():
            brought = kind_of(part.node).brings(part.node, key, a.power.ctx)
            if brought:
                for up in (key, *a.power.network.upstream(key)):
                    self.assertGreaterEqual(a.power.parts[up].design.number, brought.number, f"{up} is too thin for {key}")

    def test_no_kind_is_sized_for_nothing(self) -> None:
        """A kind that forgets what it takes or brings in would get the thinnest cable and the smallest fuse."""
        for key in KINDS:
            designs = [part.design.number for part in self.assessment.power.parts.values() if part.node.part == key]
            self.assertGreater(max(designs), 0, f"no current flows through any {key}")

    def test_what_is_asked_reaches_the_post(self) -> None:
        a = self.assessment
        for key in a.power.network.outlets():
            self.assertEqual(a.power.parts[key].flow.peak > 0, bool(a.power.plugged[key]), key)
        self.assertGreater(a.power.current.number, 0)

    def test_every_kind_is_drawn_and_named(self) -> None:
        for part in self.assessment.power.parts.values():
            self.assertTrue(kind_of(part.node).labels(part.node, part), part.key)
            self.assertTrue(kind_of(part.node).symbol(part.node, part, Box(0, 0, 60, 52)), f"{part.key} has no symbol")
        drawing = draw_path(self.assessment.power, frozenset())
        self.assertLessEqual({p.pointer for p in self.assessment.power.parts.values()}, {a.pointer for a in drawing.areas})

    def test_every_check_that_is_owed_is_made(self) -> None:
        for a in (self.assessment, *(judge(demo(name)) for name in DEMO_NAMES)):
            self.assertEqual(never_made(a), [], a.design.name)

    def test_a_rule_that_is_left_out_is_named(self) -> None:
        a = self.assessment
        asked = list(owed(a))
        self.assertGreater(len({id for id, _ in asked}), 20)
        for id, pointer in asked:
            without = replace(a, checks=[c for c in a.checks if c.id != id])
            self.assertIn((id, pointer), never_made(without))

    def test_forms_and_supplies_are_complete(self) -> None:
        models = get_args(get_args(Pack)[0])
        self.assertEqual({name for m in models for name in get_args(m.model_fields["form"].annotation)}, set(FORMS))
        self.assertEqual(set(SUPPLIES), set(get_args(Supply)))
        for supply in SUPPLIES:
            self.assertTrue(any(supply in c.supplies for c in connectors().values()), supply)
        self.assertTrue(load_kinds())

    def test_every_role_of_the_drawings_has_its_colours_on_paper(self) -> None:
        self.assertEqual(set(PAPER), set(get_args(Role)))


#: Fields of a part that are decided elsewhere than in its margin: on the AC side.
UNASKED: dict[str, set[str]] = {"inverter": {"rcd", "bond", "transfer"}, "outlet": {"usb"}}


class Checks(TestCase):
    def test_each_says_how_it_came_out(self) -> None:
        for name in DEMO_NAMES:
            a = judge(demo(name))
            for check in a.checks:
                if check.verdict is Verdict.HOLDS:
                    self.assertIsNone(check.finding, check.id)
                    self.assertLessEqual(check.used or 0.0, 1 + 1e-6, f"{check.id} holds at {check.used}")
                if check.verdict is Verdict.FAILS:
                    assert check.finding is not None
                    self.assertEqual((check.finding.id, check.finding.place), (check.id, check.place))
                if check.verdict is Verdict.OPEN:
                    self.assertTrue(check.missing, f"{check.id} does not say what is missing")
            self.assertEqual(sorted(f.id for f in a.findings), sorted(c.finding.id for c in a.checks if c.finding))

    def test_used_is_the_share_of_what_is_allowed(self) -> None:
        a = judge(demo("lantern-lane"))
        drop = next(c for c in a.checks if c.id == "power.drop" and c.place == "/power/network/busbar/run")
        assert drop.figure and drop.limit and drop.used is not None
        self.assertAlmostEqual(drop.used, drop.figure.number / drop.limit.number)
        fuse = next(c for c in a.checks if c.id == "power.fuse-interrupt" and "main-fuse" in c.place)
        assert fuse.figure and fuse.limit and fuse.used is not None
        self.assertAlmostEqual(fuse.used, fuse.limit.number / fuse.figure.number)

    def test_closest_first_puts_what_fails_before_what_waits_and_what_was_not_compared_last(self) -> None:
        order = closest_first(judge(demo("wobbly-stall")).checks)
        ranks = [list(Verdict).index(c.verdict) for c in order]
        fails, waits = ranks.count(1), ranks.count(2)
        self.assertEqual([c.verdict for c in order[: fails + waits]], [Verdict.FAILS] * fails + [Verdict.OPEN] * waits)
        used = [c.used for c in order[fails + waits :]]
        compared = [u for u in used if u is not None]
        self.assertEqual(compared, sorted(compared, reverse=True))
        self.assertEqual(used[: len(compared)], compared)

    def test_the_catalogue_says_how_bad_each_can_be(self) -> None:
        for found in (*map(judge, (every_kind(), *map(demo, DEMO_NAMES))), *map(judged, SPEAKS)):
            for check in found.checks:
                entry = CATALOGUE[check.id]
                self.assertTrue(entry.title and entry.requires, check.id)
                if check.finding:
                    self.assertIn(check.finding.severity, entry.severities, check.id)

    def test_every_entry_is_judged_somewhere_and_stands_on_the_page(self) -> None:
        made = {c.id for found in (judge(every_kind()), *map(judged, SPEAKS)) for c in found.checks}
        foreseen = {id for id in CATALOGUE if id.startswith("bench.")} | {"charging.window", *SIMULATED, *BUILT, *RECORDED}
        self.assertEqual(set(CATALOGUE) - foreseen - made, set())
        written = page()
        for entry in CATALOGUE.values():
            self.assertIn(f"### {entry.id}\n", written)
        self.assertNotIn("Why: \n", written)

    def test_a_sound_design_fails_none_and_a_bad_one_says_which(self) -> None:
        sound, bad = judge(demo("lantern-lane")), judge(demo("wobbly-stall"))
        self.assertFalse([c.id for c in sound.checks if c.finding and c.finding.severity is Severity.STOP])
        self.assertIn("power.wire-unprotected", {c.id for c in bad.checks if c.verdict is Verdict.FAILS})
        self.assertGreater(sum(c.verdict is Verdict.HOLDS for c in sound.checks), 60)

    def test_what_flows_past_a_fuse_is_the_fuse(self) -> None:
        a = judge(every_kind())
        part = a.power.parts["bar"]
        self.assertEqual(
            may_flow(part, a.power), max((a.power.parts["main"].rating, part.design), key=lambda f: f.number if f else 0)
        )
