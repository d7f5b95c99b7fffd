"""Sorting cells into groups. A spread that is larger than it need be is capacity that the builder paid for and never gets."""

from itertools import combinations
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.pack.holders import Holders
from kegcart.core.pack.sorting import Progress, SortingError, replace_cells, sort_cells
from kegcart.workbench.benchmarks import MadeUpPile
from tests import PROVING, tried


def pile(count: int, sigma: float, seed: int, outliers: float = 0.0) -> tuple[list[float], list[float]]:
    return MadeUpPile("", count, sigma, seed, outliers, 1, 1).cells()


class Arrangements(TestCase):
    def test_each_cell_is_in_one_place_and_each_group_is_full(self) -> None:
        capacity, ohms = pile(300, 0.06, 1, 0.05)
        found = sort_cells(capacity, ohms, 14, 20)
        placed = [cell for group in found.groups for cell in group]
        self.assertEqual((len(found.groups), {len(g) for g in found.groups}), (14, {20}))
        self.assertEqual(len(set(placed)), 280)
        sums = [sum(capacity[c] for c in g) for g in found.groups]
        self.assertAlmostEqual(found.spread_ah, max(sums) - min(sums))
        self.assertAlmostEqual(found.mean_ah, sum(sums) / 14)

    def test_large_piles_come_out_finer_than_any_tester_reads(self) -> None:
        for count, sigma, series, parallel in (
            (120, 0.005, 14, 8),
            (300, 0.06, 14, 20),
            (1000, 0.06, 14, 60),
            (400, 0.005, 10, 40),
        ):
            capacity, ohms = pile(count, sigma, count)
            self.assertLess(sort_cells(capacity, ohms, series, parallel).spread, 1e-4, f"{count} cells")

    def test_small_piles_reach_the_best_that_trying_all_finds(self) -> None:
        for seed in range(8 if PROVING else 3):
            capacity, ohms = pile(7, 0.06, seed)
            best = min(
                abs(sum(capacity[c] for c in a) - sum(capacity[c] for c in b))
                for a in combinations(range(7), 3)
                for b in combinations([c for c in range(7) if c not in a], 3)
            )
            found = sort_cells(capacity, ohms, 2, 3)
            self.assertLessEqual(found.spread_ah, max(best * 1.05, 1e-4 * found.mean_ah) + 1e-9, f"seed {seed}")

    def test_the_strongest_cells_are_taken_where_any_would_do(self) -> None:
        capacity = [2.0] * 20 + [2.5] * 20
        found = sort_cells(capacity, [30] * 40, 4, 5)
        self.assertEqual({capacity[c] for g in found.groups for c in g}, {2.5})

    def test_conductance_is_evened_without_giving_up_capacity(self) -> None:
        capacity, _ = pile(280, 0.05, 3)
        chance = np.random.default_rng(5)
        ohms = (30 * (1 + 0.12 * chance.standard_normal(280)).clip(0.5)).tolist()
        plain = sort_cells(capacity, [None] * 280, 14, 20)
        found = sort_cells(capacity, ohms, 14, 20)

        def spread(groups: tuple[tuple[int, ...], ...]) -> float:
            sums = [sum(1 / ohms[c] for c in g) for g in groups]
            return (max(sums) - min(sums)) / (sum(sums) / len(sums))

        self.assertLess(spread(found.groups), 0.5 * spread(plain.groups))
        self.assertLess(found.spread, 1e-4)
        self.assertAlmostEqual(found.conductance_spread, spread(found.groups))

    def test_the_same_cells_give_the_same_groups(self) -> None:
        capacity, ohms = pile(90, 0.06, 9)
        self.assertEqual(sort_cells(capacity, ohms, 7, 12).groups, sort_cells(capacity, ohms, 7, 12).groups)

    @tried(200)
    @given(st.data())
    def test_pinned_cells_stay_and_no_pile_breaks_the_search(self, data: st.DataObject) -> None:
        series, parallel = data.draw(st.integers(1, 6)), data.draw(st.integers(1, 8))
        count = series * parallel + data.draw(st.integers(0, 6))
        capacity = data.draw(st.lists(st.floats(0.1, 5), min_size=count, max_size=count))
        ohms = data.draw(st.lists(st.none() | st.floats(1, 100), min_size=count, max_size=count))
        pinned = {}
        for group in range(series):
            for cell in data.draw(st.lists(st.integers(0, count - 1), max_size=min(2, parallel), unique=True)):
                pinned.setdefault(cell, group)
        found = sort_cells(capacity, ohms, series, parallel, pinned=pinned, rounds=40)
        self.assertEqual(len({c for g in found.groups for c in g}), series * parallel)
        for cell, group in pinned.items():
            self.assertIn(cell, found.groups[group])

    def test_holders_across_the_series_hold_one_of_each_group_as_alike_as_can_be(self) -> None:
        capacity, ohms = pile(200, 0.06, 11)
        for k, n in ((1, 14), (1, 7), (2, 14)):
            found = sort_cells(capacity, ohms, 14, 12, holder=k, holder_groups=n)
            holders = Holders(k, n, 12)
            held: dict[int, dict[int, float]] = {}
            for g, group in enumerate(found.groups, 1):
                for place, cell in enumerate(group, 1):
                    held.setdefault(holders.number(g, place), {})[holders.slot(g, place)] = capacity[cell]
            self.assertEqual({tuple(sorted(slots)) for slots in held.values()}, {tuple(range(1, k * n + 1))})
            self.assertEqual(len(held), 14 * 12 // (k * n))
            inside = max(max(slots.values()) - min(slots.values()) for slots in held.values())
            self.assertLess(inside, max(capacity) - min(capacity))
            self.assertLess(found.spread, 0.002)

    def test_holders_hold_matched_cells(self) -> None:
        capacity, ohms = pile(200, 0.06, 11)
        found = sort_cells(capacity, ohms, 7, 24, holder=4)
        inside = [max(h) - min(h) for g in found.groups for h in ([capacity[c] for c in g[i : i + 4]] for i in range(0, 24, 4))]
        loose = sort_cells(capacity, ohms, 7, 24)
        unmatched = [
            max(h) - min(h) for g in loose.groups for h in ([capacity[c] for c in g[i : i + 4]] for i in range(0, 24, 4))
        ]
        self.assertLess(sum(inside), 0.2 * sum(unmatched))

    def test_it_says_how_far_it_is_and_stops_when_told(self) -> None:
        capacity, ohms = pile(56, 0.06, 11)
        told: list[Progress] = []

        def report(progress: Progress) -> bool:
            told.append(progress)
            return len(told) < 3

        found = sort_cells(capacity, ohms, 14, 4, report=report)
        self.assertTrue(found.stopped)
        self.assertEqual(len(told), 3)
        self.assertLessEqual(told[-1].spread_ah, told[0].spread_ah)
        self.assertEqual(len({c for g in found.groups for c in g}), 56)

    def test_what_cannot_be_sorted_is_said(self) -> None:
        for arguments, words in (
            (([2.5] * 5, [30] * 5, 2, 3), "want 6 good cells; there are 5"),
            (([2.5] * 12, [30] * 12, 2, 5, 2), "holders of 2"),
            (([2.5] * 12, [30] * 12, 3, 4, 1, 2), "reach over 2"),
            (([2.5] * 6, [30] * 6, 2, 3, 1, 1, {0: 2}), "no group 3"),
            (([2.5] * 6, [30] * 6, 3, 2, 1, 1, {0: 0, 1: 0, 2: 0}), "more cells are pinned"),
            (([2.5] * 8, [30] * 8, 2, 4, 2, 1, {0: 0}), "holders of several"),
        ):
            with self.assertRaises(SortingError) as caught:
                sort_cells(*arguments)  # type: ignore[arg-type]
            self.assertIn(words, str(caught.exception))


class Refilling(TestCase):
    def test_one_hole_is_filled_by_one_cell(self) -> None:
        capacity, ohms = pile(300, 0.04, 21)
        found = sort_cells(capacity, ohms, 14, 20)
        used = {c for g in found.groups for c in g}
        groups: list[list[int | None]] = [list(g) for g in found.groups]
        groups[4][7] = None
        rows, moved = replace_cells(capacity, groups, [c for c in range(300) if c not in used], 0.01)
        self.assertEqual(moved, 1)
        same = sum(a == b for row, group in zip(rows, found.groups, strict=True) for a, b in zip(row, group, strict=True))
        self.assertEqual(same, 279)

    def test_more_are_moved_only_until_the_target_is_met(self) -> None:
        capacity, ohms = pile(290, 0.06, 22)
        found = sort_cells(capacity, ohms, 14, 20)
        used = {c for g in found.groups for c in g}
        groups: list[list[int | None]] = [list(g) for g in found.groups]
        for place in range(4):
            groups[2][place] = None
        spares = [c for c in range(290) if c not in used]
        loose, few = replace_cells(capacity, groups, spares, 0.05)
        tight, more = replace_cells(capacity, groups, spares, 0.01)
        self.assertGreaterEqual(more, few)

        def spread(rows: list[list[int]]) -> float:
            sums = [sum(capacity[c] for c in row) for row in rows]
            return (max(sums) - min(sums)) / (sum(sums) / len(sums))

        self.assertLessEqual(spread(loose), 0.05)
        self.assertLessEqual(spread(tight), 0.01)
        self.assertLess(more, 30)

    def test_without_spares_it_says_so(self) -> None:
        with self.assertRaises(SortingError):
            replace_cells([2.5] * 4, [[0, 1], [2, None]], [], 0.01)
