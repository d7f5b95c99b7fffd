"""The sheet for the lid: every fuse on it once, the order in which it is switched off and on, what depends on the chemistry."""

from typing import Any
from unittest import TestCase

from kegcart.core.assembly.lid import LidSection, LidSheet
from kegcart.core.building import build_of, lid_of
from tests.core.samples import DEMO_NAMES, demo, document, judge, put


def sheet(data: dict[str, Any]) -> LidSheet:
    return lid_of(judge(data))


def section(lid: LidSheet, title: str) -> LidSection:
    return next(s for s in (*lid.front, *lid.back, *lid.inside) if s.title == title)


class Lid(TestCase):
    def test_every_fuse_and_breaker_stands_on_it_once(self) -> None:
        for name in DEMO_NAMES:
            found = judge(demo(name))
            items = {i for line in build_of(found).shopping.lines for i in line.items if i.startswith("fuse:")}
            items |= {f"fuse:{key}" for key in found.power.parts if found.power.network.role(key) == "protects"}
            rows = section(lid_of(found), "Fuses").rows
            counts = [int(row[0].split(" × ")[0]) if " × " in row[0] else 1 for row in rows]
            self.assertEqual(sum(counts), len(items), name)
            called = " ".join(row[0] for row in rows)
            for key, part in found.power.parts.items():
                if found.power.network.role(key) == "protects":
                    self.assertIn(part.node.name, called)

    def test_a_fuse_names_what_it_protects_and_its_rating(self) -> None:
        rows = section(sheet(demo("lantern-lane")), "Fuses").rows
        self.assertIn(("Main fuse", "150 A class T fuse", "Charge fuse, Main switch"), rows)
        self.assertIn(("9 × Small fuse", "2 A 10×38 mm cartridge fuse", "sense leads of the board"), rows)
        self.assertIn("Fuse of Tow car", [row[0] for row in section(sheet(demo("tidewater")), "Fuses").rows])

    def test_it_is_switched_off_from_the_loads_to_the_main_switch(self) -> None:
        off = section(sheet(demo("hollow-oak")), "To switch it off").lines
        order = ["plugged in", "Inverter off", "Barn panels", "House charger", "Main switch to OFF", "never off"]
        self.assertEqual([line for line, said in zip(off, order, strict=True) if said not in line], [])
        on = section(sheet(demo("hollow-oak")), "To switch it on").lines
        self.assertIn("pre-charge", on[0])
        self.assertIn("array last", on[-1])

    def test_without_a_main_switch_it_says_what_is_taken_out(self) -> None:
        data = demo("tidewater")
        network = data["power"]["network"]
        switch = next(key for key, node in network.items() if node["part"] == "switch")
        for node in network.values():
            if node["feed"] == switch:
                node["feed"] = network[switch]["feed"]
        del network[switch]
        data["box"]["places"].pop(f"part:{switch}", None)
        off = section(sheet(data), "To switch it off").lines
        self.assertIn("There is no main switch: take out or open Main fuse.", off)

    def test_what_is_to_be_done_in_danger_depends_on_the_chemistry(self) -> None:
        self.assertIn("lithium battery", " ".join(section(sheet(demo("tidewater")), "If something is wrong").lines))
        lead = put(document(), "/pack", {"form": "battery", "chemistry": "agm", "battery": {"capacity_ah": 80}})
        said = sheet(lead)
        self.assertIn("Acid", " ".join(section(said, "If something is wrong").lines))
        self.assertIn("In storage full", " ".join(section(said, "To charge it").lines))

    def test_limits_are_those_of_the_design(self) -> None:
        found = judge(demo("wobbly-stall"))
        limits = dict(section(lid_of(found), "Its limits").rows)  # type: ignore[arg-type]
        self.assertEqual(limits["From the pack, all the time"], f"at most {found.pack.continuous.text}")
        self.assertEqual(limits["Into the pack"], f"at most {found.pack.charge_limit.text}")
        spares = section(lid_of(found), "Spares in the lid").lines
        self.assertIn("1 × bolt-in fuse, 300 A", spares)
