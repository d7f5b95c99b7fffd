"""Makes the demo rack anew: 320 made-up reclaimed cells, seeded, and sorts the good ones into the demo build."""

import csv
import json
import random
from datetime import date, timedelta
from typing import Any

from django.core.management.base import BaseCommand

from kegcart.core.pack.rack import Measured, Pile, RejectLimits, read_cells, reject_reasons
from kegcart.core.pack.sorting import sort_cells
from kegcart.workbench.services import DEMO_DIR

CELLS, SEED = 320, 33
SERIES, PARALLEL = 14, 20
RATED_AH = 2.6
#: share of the cells with each fault: capacity gone, resistance high, self-discharge, arrived flat, rusty
FAULTS = (("weak", 0.03), ("tired", 0.02), ("leaky", 0.02), ("flat", 0.008), ("rusty", 0.008))


def made_up(n: int, chance: random.Random) -> dict[str, Any]:
    """One cell: a realistic spread about 87 % of the rated capacity, now and then with a fault."""
    fault = next((name for name, share in FAULTS if chance.random() < share), "")
    capacity = RATED_AH * min(0.98, chance.gauss(0.885, 0.032))
    resistance = 46 * max(0.72, chance.gauss(1, 0.035)) * (0.885 * RATED_AH / capacity) ** 0.8
    resting, lost = chance.gauss(4.12, 0.012), abs(chance.gauss(0.008, 0.005))
    if fault == "weak":
        capacity *= chance.uniform(0.55, 0.85)
    if fault == "tired":
        resistance *= chance.uniform(1.6, 2.4)
    if fault == "leaky":
        lost = chance.uniform(0.035, 0.14)
    if fault == "flat":
        resting, lost = chance.uniform(0.4, 1.8), 0.0
    first = date(2026, 3, 2) + timedelta(days=n // 40)
    return {
        "label": f"HO-{n:03d}",
        "format": "18650",
        "chemistry": "nmc",
        "capacity mAh": round(capacity * 1000),
        "rated capacity mAh": round(RATED_AH * 1000),
        "resistance mΩ (1 kHz)": round(resistance, 1),
        "resting voltage V": round(resting, 3),
        "date": first.isoformat(),
        "later voltage V": round(resting - lost, 3),
        "later date": (first + timedelta(days=14)).isoformat(),
        "source": f"e-bike battery {chr(65 + n // 54)}",
        "damaged": "yes" if fault == "rusty" else "",
    }


class Command(BaseCommand):
    help = "Make the demo rack of measured cells anew, and sort it into the demo build."

    def handle(self, *args: Any, **options: Any) -> None:
        chance = random.Random(SEED)
        rows = [made_up(n, chance) for n in range(1, CELLS + 1)]
        with (DEMO_DIR / "hollow-oak-rack.csv").open("w", encoding="utf-8", newline="") as file:
            writer = csv.DictWriter(file, list(rows[0]), lineterminator="\n")
            writer.writeheader()
            writer.writerows(rows)
        text = (DEMO_DIR / "hollow-oak-rack.csv").read_text(encoding="utf-8")
        cells = read_cells(text, Measured()).cells
        pile = Pile.of(cells)
        good = [c for c in cells if not reject_reasons(c, pile, RejectLimits())]
        found = sort_cells([c.capacity_ah or 0 for c in good], [c.resistance_mohm for c in good], SERIES, PARALLEL)
        path = DEMO_DIR / "hollow-oak.json"
        document = json.loads(path.read_text(encoding="utf-8"))
        document["pack"]["groups"] = {
            f"g{g}": {
                "cells": [
                    {
                        "label": good[n].label,
                        "capacity_ah": good[n].capacity_ah,
                        "resistance_mohm": good[n].resistance_mohm,
                        "resting_v": good[n].later_v,
                    }
                    for n in group
                ]
            }
            for g, group in enumerate(found.groups, 1)
        }
        path.write_text(json.dumps(document, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
        self.stdout.write(f"{len(good)} good of {len(cells)}; spread {found.spread:.4%}")
