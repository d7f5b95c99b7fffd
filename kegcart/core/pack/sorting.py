"""Sorting measured cells into S groups of P: capacities as equal as can be, then conductances.

First the spread of group capacity (greatest less least) is made small, as the weakest group sets what the pack
gives; then, among arrangements whose spread is as good, the spread of group conductance (Σ1/r). The strongest cells
are taken first. Cells that go in and out together (a holder of k) are matched to one another and moved as one item.

The search is seeded: the same cells give the same groups. It knows no clock: whoever calls it may stop it.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

FINE = 2e-5
"""Spread over group capacity that no tester can tell from none: the search stops there."""
SMALL = 6
"""Up to so many items a group, every way of sharing two groups anew is tried."""
NEAR_SPARES = 7
"""So many spares, nearest to what a group lacks, are tried with it at once."""
KICK = 3
ROUNDS = 6000
CONDUCTANCE_ROUNDS = 1500


@dataclass(frozen=True, slots=True)
class Progress:
    """How far a search is: rounds done of all, and the best spread so far (Ah)."""

    done: int
    rounds: int
    spread_ah: float


Report = Callable[[Progress], bool]
"""Told now and then; returns False to stop the search, which then gives the best it has."""


@dataclass(frozen=True, slots=True)
class Arrangement:
    """Cells by group, as indices into the pile, each group in the order of its places."""

    groups: tuple[tuple[int, ...], ...]
    spread_ah: float
    mean_ah: float
    conductance_spread: float
    stopped: bool = False

    @property
    def spread(self) -> float:
        """Spread of group capacity over its mean."""
        return self.spread_ah / self.mean_ah if self.mean_ah else 0.0


class SortingError(ValueError):
    """The cells cannot be sorted as asked; the sentence says why."""


def sort_cells(
    capacity_ah: Sequence[float],
    resistance_mohm: Sequence[float | None],
    series: int,
    parallel: int,
    holder: int = 1,
    holder_groups: int = 1,
    pinned: Mapping[int, int] | None = None,
    rounds: int = ROUNDS,
    report: Report | None = None,
    seed: int = 1,
) -> Arrangement:
    """Sort cells into `series` groups of `parallel`.

    capacity_ah, resistance_mohm: of each good cell of the pile, by index; a resistance may be missing.
    holder: cells of a group that are put in and taken out together and should match; divides `parallel`.
    holder_groups: groups that a holder reaches over; divides `series`. Its cells are matched over all of them, as the strongest of each
    group come first.
    pinned: index -> group in which a cell stays.
    Errors: SortingError where there are too few cells, or pins that cannot be kept.
    """
    pins = dict(pinned or {})
    capacity = np.asarray(capacity_ah, dtype=np.float64)
    check(len(capacity), series, parallel, (holder, holder_groups), pins)
    known = [1 / r for r in resistance_mohm if r]
    middle = float(np.median(known)) if known else 1.0
    conductance = np.array([1 / r if r else middle for r in resistance_mohm], dtype=np.float64)
    items, fixed, spare = make_items(capacity, series, parallel, holder, pins)
    sums = np.array([capacity[list(item)].sum() for item in items])
    siemens = np.array([conductance[list(item)].sum() for item in items])
    search = Search(sums, siemens, series, parallel // holder, fixed, spare, np.random.default_rng(seed))
    stopped = search.even_capacity(rounds, report)
    if not stopped and len(known) > 1:
        search.even_conductance(CONDUCTANCE_ROUNDS)
    if holder_groups > 1:  # within a group the order is free
        order = np.argsort(-sums[search.best], axis=1, kind="stable")
        search.best = np.take_along_axis(search.best, order, axis=1)
    return arrangement(search.best, items, capacity, conductance, stopped)


def check(count: int, series: int, parallel: int, pattern: tuple[int, int], pins: Mapping[int, int]) -> None:
    """Errors: SortingError where the cells cannot be sorted as asked. pattern: cells of a group in a holder, groups it reaches over."""
    holder, holder_groups = pattern
    if count < series * parallel:
        raise SortingError(f"{series} groups of {parallel} want {series * parallel} good cells; there are {count}")
    if parallel % holder:
        raise SortingError(f"{parallel} cells in parallel do not fill holders of {holder}")
    if series % holder_groups:
        raise SortingError(f"{series} groups in series do not fill holders that reach over {holder_groups}")
    if pins and holder > 1:
        raise SortingError("cells can be pinned only where each stands in a place of its own, not in holders of several")
    for group in set(pins.values()):
        if not 0 <= group < series:
            raise SortingError(f"there is no group {group + 1}")
        if sum(g == group for g in pins.values()) > parallel:
            raise SortingError(f"more cells are pinned in group {group + 1} than it has places")


def make_items(
    capacity: Floats, series: int, parallel: int, holder: int, pins: Mapping[int, int]
) -> tuple[list[tuple[int, ...]], dict[int, int], list[int]]:
    """What is moved as one, strongest first: cells, or matched holders. Returns items, fixed items and spares."""
    order = sorted(range(len(capacity)), key=lambda i: (-capacity[i], i))
    wanted = series * parallel // holder
    if holder == 1:
        items: list[tuple[int, ...]] = [(i,) for i in order]
    else:  # neighbours by capacity match best
        items = [tuple(order[i : i + holder]) for i in range(0, len(order) - holder + 1, holder)]
    fixed = {n: pins[item[0]] for n, item in enumerate(items) if holder == 1 and item[0] in pins}
    chosen = set(fixed)
    for n in range(len(items)):
        if len(chosen) == wanted:
            break
        chosen.add(n)
    return items, fixed, [n for n in range(len(items)) if n not in chosen]


def spread_of(sums: Floats) -> float:
    """The greatest sum less the least, Ah."""
    return float(sums.max() - sums.min())


@dataclass(slots=True)
class Search:
    """The search over arrangements of items: `table` has a row of items for each group."""

    value: Floats
    siemens: Floats
    series: int
    width: int
    fixed: dict[int, int]
    spare: list[int]
    chance: np.random.Generator
    table: Ints = field(init=False)
    best: Ints = field(init=False)
    best_spare: list[int] = field(init=False)
    best_spread: float = field(init=False)
    free: NDArray[np.bool_] = field(init=False)
    splits: NDArray[np.bool_] | None = field(init=False)
    picks: dict[int, NDArray[np.bool_]] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        self.deal()
        self.free = np.ones(len(self.value), dtype=np.bool_)
        self.free[list(self.fixed)] = False
        self.splits = subsets(2 * self.width, self.width) if self.width <= SMALL else None
        self.keep()

    def deal(self) -> None:
        """Deal the chosen items out, strongest first, each to the group that has least of those with room."""
        rows: list[list[int]] = [[] for _ in range(self.series)]
        for item, group in self.fixed.items():
            rows[group].append(item)
        totals = [float(self.value[row].sum()) for row in rows]
        spare = set(self.spare)
        for item in range(len(self.value)):
            if item in self.fixed or item in spare:
                continue
            group = min((g for g in range(self.series) if len(rows[g]) < self.width), key=lambda g: (totals[g], g))
            rows[group].append(item)
            totals[group] += float(self.value[item])
        self.table = np.array(rows, dtype=np.int64)

    @property
    def sums(self) -> Floats:
        """Capacity of each group, Ah."""
        out: Floats = self.value[self.table].sum(axis=1)
        return out

    def keep(self) -> None:
        """Remember the arrangement as the best."""
        self.best, self.best_spare = self.table.copy(), list(self.spare)
        self.best_spread = spread_of(self.sums)

    def even_capacity(self, rounds: int, report: Report | None) -> bool:
        """Make the spread of capacity small; True where the search was stopped from outside."""
        goal = FINE * float(self.sums.mean())
        for done in range(rounds):
            if done % 16 == 0 and report and not report(Progress(done, rounds, self.best_spread)):
                return True
            if not self.improve():
                if spread_of(self.sums) < self.best_spread:
                    self.keep()
                if self.best_spread <= goal:
                    break
                self.table, self.spare = self.best.copy(), list(self.best_spare)
                self.kick()
        if spread_of(self.sums) < self.best_spread:
            self.keep()
        return False

    def improve(self) -> bool:
        """One step that brings the most and the least group nearer to the mean; False where none is found."""
        sums = self.sums
        mean = float(sums.mean())
        high, low = int(sums.argmax()), int(sums.argmin())
        ends = (high, low) if sums[high] - mean >= mean - sums[low] else (low, high)
        for group in ends:
            others = np.argsort(sums)  # the far end first
            others = others[::-1] if group == low else others
            if self.with_spares(group, sums, mean):
                return True
            for other in others[: 4 if self.splits is None else self.series]:
                if other != group and self.share_anew(group, int(other), sums):
                    return True
        return False

    def share_anew(self, a: int, b: int, sums: Floats) -> bool:
        """Exchange items of two groups so that their sums come closer together."""
        gap = abs(float(sums[a] - sums[b]))
        if gap < 1e-9:
            return False
        row_a, row_b = self.table[a], self.table[b]
        if self.splits is not None:
            both = np.concatenate([row_a, row_b])
            allowed = self.splits
            for place, item in enumerate(both):
                if not self.free[item]:
                    allowed = allowed[allowed[:, place] == (place < self.width)]
            halves = allowed @ self.value[both]
            best = int(np.abs(2 * halves - self.value[both].sum()).argmin())
            if abs(2 * float(halves[best]) - float(self.value[both].sum())) >= gap - 1e-9:
                return False
            chosen = allowed[best]
            self.table[a], self.table[b] = both[chosen], both[~chosen]
            return True
        wanted = float(sums[a] - sums[b]) / 2
        place_a, place_b = np.flatnonzero(self.free[row_a]), np.flatnonzero(self.free[row_b])
        if not len(place_a) or not len(place_b):
            return False
        single = self.value[row_a[place_a]][:, None] - self.value[row_b[place_b]][None, :]
        i, j = np.unravel_index(int(np.abs(single - wanted).argmin()), single.shape)
        moves, left = [(int(place_a[i]), int(place_b[j]))], abs(2 * (float(single[i, j]) - wanted))
        if left > FINE * float(sums[a]) and len(place_a) > 1 and len(place_b) > 1:
            moves, left = self.pairs(row_a, row_b, place_a, place_b, wanted, moves, left)
        if left >= gap - 1e-9:
            return False
        for x, y in moves:
            self.table[a, x], self.table[b, y] = self.table[b, y], self.table[a, x]
        return True

    def pairs(
        self, row_a: Ints, row_b: Ints, place_a: Ints, place_b: Ints, wanted: float, moves: list[tuple[int, int]], left: float
    ) -> tuple[list[tuple[int, int]], float]:
        """The best exchange of two items for two, if better than `moves`."""
        ia, ja = np.triu_indices(len(place_a), 1)
        ib, jb = np.triu_indices(len(place_b), 1)
        two_a = self.value[row_a[place_a[ia]]] + self.value[row_a[place_a[ja]]]
        two_b = self.value[row_b[place_b[ib]]] + self.value[row_b[place_b[jb]]]
        order = np.argsort(two_b)
        at = np.clip(np.searchsorted(two_b[order], two_a - wanted), 1, len(order) - 1)
        for near in (at - 1, at):
            off = np.abs(two_a - two_b[order[near]] - wanted)
            k = int(off.argmin())
            if 2 * float(off[k]) < left:
                pair = order[near[k]]
                moves = [(int(place_a[ia[k]]), int(place_b[ib[pair]])), (int(place_a[ja[k]]), int(place_b[jb[pair]]))]
                left = 2 * float(off[k])
        return moves, left

    def with_spares(self, group: int, sums: Floats, mean: float) -> bool:
        """Exchange items of a group with spares so that its sum comes nearer to the mean of the others."""
        if not self.spare:
            return False
        others = (mean * self.series - float(sums[group])) / (self.series - 1) if self.series > 1 else mean
        off = abs(float(sums[group]) - others)
        row = self.table[group]
        places = np.flatnonzero(self.free[row])
        if not len(places) or self.series == 1:
            return False
        spare = np.array(self.spare)
        change = self.value[spare][None, :] - self.value[row[places]][:, None]
        left = np.abs(float(sums[group]) + change - others)
        i, j = np.unravel_index(int(left.argmin()), left.shape)
        if self.splits is not None and len(self.spare) > 1:
            # Every choice of the group's items and the spares that come nearest.
            near = spare[np.argsort(left.min(axis=0))[:NEAR_SPARES]]
            pool = np.concatenate([row, near])
            allowed = self.picks.setdefault(len(pool), subsets(len(pool), self.width))
            for place, item in enumerate(row):
                if not self.free[item]:
                    allowed = allowed[allowed[:, place]]
            totals = allowed @ self.value[pool]
            best = int(np.abs(totals - others).argmin())
            if abs(float(totals[best]) - others) < min(off, float(left[i, j])) - 1e-9:
                chosen = allowed[best]
                self.table[group] = pool[chosen]
                self.spare = [s for s in self.spare if s not in set(near.tolist())] + pool[~chosen].tolist()
                return True
        if float(left[i, j]) >= off - 1e-9:
            return False
        out = int(row[places[i]])
        self.table[group, places[i]] = spare[j]
        self.spare[int(j)] = out
        return True

    def kick(self) -> None:
        """Exchange a few items by chance, to leave an arrangement that no single step improves."""
        for _ in range(KICK):
            if self.series < 2:
                return
            a, b = self.chance.choice(self.series, 2, replace=False)
            x, y = self.chance.integers(self.width, size=2)
            if self.free[self.table[a, x]] and self.free[self.table[b, y]]:
                self.table[a, x], self.table[b, y] = self.table[b, y], self.table[a, x]

    def even_conductance(self, rounds: int) -> None:
        """Lessen the spread of conductance without letting the spread of capacity grow beyond what can be told."""
        self.table, self.spare = self.best.copy(), list(self.best_spare)
        allowed = max(self.best_spread, FINE * float(self.sums.mean()))
        for _ in range(rounds):
            sums, siemens = self.sums, self.siemens[self.table].sum(axis=1)
            before = spread_of(siemens)
            high, low = int(siemens.argmax()), int(siemens.argmin())
            if not (
                self.swap_like(high, low, sums, siemens, allowed, before) or self.swap_any(high, low, sums, siemens, allowed)
            ):
                break
        self.best, self.best_spare = self.table.copy(), list(self.spare)
        self.best_spread = spread_of(self.sums)

    def swap_like(self, a: int, b: int, sums: Floats, siemens: Floats, allowed: float, before: float) -> bool:
        """Exchange two items of almost one capacity between two groups, where that brings their conductances together."""
        row_a, row_b = self.table[a], self.table[b]
        free = self.free[row_a][:, None] & self.free[row_b][None, :]
        moved = self.value[row_a][:, None] - self.value[row_b][None, :]
        rest = np.delete(sums, [a, b])
        top, bottom = (float(rest.max()), float(rest.min())) if len(rest) else (-np.inf, np.inf)
        new_a, new_b = sums[a] - moved, sums[b] + moved
        spread = np.maximum(np.maximum(new_a, new_b), top) - np.minimum(np.minimum(new_a, new_b), bottom)
        gain = self.siemens[row_a][:, None] - self.siemens[row_b][None, :]
        gap = float(siemens[a] - siemens[b])
        after = np.where(free & (spread <= allowed + 1e-12), np.abs(gap - 2 * gain), np.inf)
        i, j = np.unravel_index(int(after.argmin()), after.shape)
        if not np.isfinite(after[i, j]) or float(after[i, j]) >= abs(gap) - 1e-12:
            return False
        self.table[a, i], self.table[b, j] = self.table[b, j], self.table[a, i]
        return True

    def swap_any(self, high: int, low: int, sums: Floats, siemens: Floats, allowed: float) -> bool:
        """The same with any other group in place of one of the two ends."""
        for other in range(self.series):
            if other in (high, low):
                continue
            for a, b in ((high, other), (other, low)):
                if siemens[a] > siemens[b] and self.swap_like(a, b, sums, siemens, allowed, 0.0):
                    return True
        return False


def subsets(n: int, k: int) -> NDArray[np.bool_]:
    """Every choice of k out of n, a row each."""
    out = np.zeros((0, n), dtype=np.bool_)
    rows = list(combinations(range(n), k))
    out = np.zeros((len(rows), n), dtype=np.bool_)
    out[np.arange(len(rows))[:, None], np.array(rows)] = True
    return out


def arrangement(
    table: Ints, items: list[tuple[int, ...]], capacity: Floats, conductance: Floats, stopped: bool = False
) -> Arrangement:
    """The table of items as groups of cells, with what they come to."""
    groups = tuple(tuple(cell for item in row for cell in items[int(item)]) for row in table)
    ah = np.array([capacity[list(g)].sum() for g in groups])
    siemens = np.array([conductance[list(g)].sum() for g in groups])
    return Arrangement(
        groups, float(ah.max() - ah.min()), float(ah.mean()), float((siemens.max() - siemens.min()) / siemens.mean()), stopped
    )


def replace_cells(
    capacity_ah: Sequence[float],
    groups: Sequence[Sequence[int | None]],
    spares: Sequence[int],
    target: float,
    most_moves: int = 40,
) -> tuple[list[list[int]], int]:
    """Fill holes in an arrangement, moving as few other cells as it can.

    groups: indices of the cells by group, None where one was taken out. spares: indices of good cells not placed.
    target: spread over mean capacity that is good enough; further cells are exchanged only until it is met.
    Returns the groups, and how many cells were moved or put in. Errors: SortingError where spares are too few.
    """
    value = np.asarray(capacity_ah, dtype=np.float64)
    rows = [list(g) for g in groups]
    left = list(spares)
    holes = [(g, place) for g, row in enumerate(rows) for place, cell in enumerate(row) if cell is None]
    if len(holes) > len(left):
        raise SortingError(f"{len(holes)} places are empty, and there are {len(left)} good cells to spare")
    moves = 0
    whole = [sum(value[c] for c in row if c is not None) for row in rows if None not in row]
    for g, place in holes:
        have = sum(value[c] for c in rows[g] if c is not None)
        empty = sum(c is None for c in rows[g])
        mean = float(np.mean(whole)) if whole else float(value[left].mean()) * len(rows[g])
        best = min(left, key=lambda c: (abs(have + value[c] * empty - mean), c))
        rows[g][place] = best
        left.remove(best)
        moves += 1
    table = [[c for c in row if c is not None] for row in rows]
    while moves < most_moves:
        sums = np.array([value[row].sum() for row in table])
        if spread_of(sums) <= target * float(sums.mean()):
            break
        step = single_exchange(value, table, left, sums)
        if step is None:
            break
        moves += step
    return table, moves


def single_exchange(value: Floats, table: list[list[int]], spares: list[int], sums: Floats) -> int | None:
    """The one exchange that lessens the spread most: a cell for a spare (one moved), or two cells for each other (two)."""
    before = spread_of(sums)
    best: tuple[float, int, tuple[int, ...]] | None = None
    for g in (int(sums.argmax()), int(sums.argmin())):
        rest = np.delete(sums, g)
        for place, cell in enumerate(table[g]):
            for n, spare in enumerate(spares):
                new = sums[g] - value[cell] + value[spare]
                spread = max(float(rest.max()), float(new)) - min(float(rest.min()), float(new))
                if best is None or (spread, 1) < best[:2]:
                    best = (spread, 1, (g, place, n))
        for other in range(len(table)):
            if other == g:
                continue
            last = np.delete(sums, [g, other])
            moved = value[table[g]][:, None] - value[table[other]][None, :]
            new_a, new_b = sums[g] - moved, sums[other] + moved
            top = np.maximum(new_a, new_b) if not len(last) else np.maximum(np.maximum(new_a, new_b), last.max())
            low = np.minimum(new_a, new_b) if not len(last) else np.minimum(np.minimum(new_a, new_b), last.min())
            spreads = top - low
            x, y = np.unravel_index(int(spreads.argmin()), spreads.shape)
            if best is None or (float(spreads[x, y]), 2) < best[:2]:
                best = (float(spreads[x, y]), 2, (g, int(x), other, int(y)))
    if best is None or best[0] >= before - 1e-12:
        return None
    _, cost, at = best
    if cost == 1:
        g, place, n = at
        table[g][place], spares[n] = spares[n], table[g][place]
    else:
        g, i, other, j = at
        table[g][i], table[other][j] = table[other][j], table[g][i]
    return cost
