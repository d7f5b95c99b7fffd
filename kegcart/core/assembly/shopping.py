"""What is bought of it: wire in the lengths that are sold, terminals in packets, less what is there; what it all costs, and what else would."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from math import ceil, inf

from kegcart.core.assembly.cutting import Piece
from kegcart.core.assembly.document import Alternatives, Assembly
from kegcart.core.assembly.lines import CENT, ListLine, PartsList, priced, slug
from kegcart.core.figure import Figure, Sheet
from kegcart.core.reference import assumption
from kegcart.core.reference.hardware import WireSold, wire_sold
from kegcart.core.units import units_shown

MICRON = 6
"""Decimals of a length in m: what is below is rounding."""


@dataclass(slots=True)
class Roll:
    """A length of wire, m, with the pieces that are cut from it; `owned` where it is there already."""

    length: float
    cuts: list[float] = field(default_factory=list)
    owned: bool = False

    @property
    def used(self) -> float:
        """What is cut from it, m."""
        return round(sum(self.cuts), MICRON)

    @property
    def left(self) -> float:
        """What is left of it, m."""
        return round(self.length - self.used, MICRON)


def cut_from(cuts: Iterable[float], lengths: Sequence[float], owned_m: float, spare: float) -> list[Roll]:
    """The lengths to buy for pieces of so many m, and which piece is cut from which: the longest first, each from the first that has it.

    lengths: as sold, m; of one alone any whole number of it is sold in a piece. owned_m: a length that is there. spare: so much more is
    bought, as a share of the pieces. Source: first fit decreasing.
    """
    step = lengths[0] if len(lengths) == 1 else 0.0
    whole = sorted(cuts, reverse=True)
    longest = inf if step else lengths[-1]
    rolls = [Roll(owned_m, owned=True)] if owned_m > 0 else []
    for cut in whole:
        room = (r for r in rolls if r.left >= cut - 1e-9 and (r.owned or r.used + cut <= longest + 1e-9))
        found = next(room, None)
        if found is None:
            found = Roll(inf if step else max(longest, cut))
            rolls.append(found)
        found.cuts.append(cut)
    bought = [r for r in rolls if not r.owned]
    for roll in bought:
        roll.length = as_sold(roll.used, lengths)
    more = round(sum(whole) * (1 + spare) - sum(r.length for r in rolls), MICRON)
    if more > 0 and bought:
        # What is to spare is bought with the last of them, or as one more.
        last = bought[-1]
        longer = as_sold(last.length + more, lengths)
        if longer <= longest:
            last.length = longer
        else:
            rolls.append(Roll(as_sold(more, lengths)))
    return rolls


def as_sold(metres: float, lengths: Sequence[float]) -> float:
    """The shortest length sold that is at least so many m; of more than the longest, so many of the longest as one."""
    if len(lengths) == 1:
        return round(ceil(round(metres / lengths[0], MICRON)) * lengths[0], MICRON)
    return next(
        (length for length in lengths if length >= metres - 1e-9), round(ceil(metres / lengths[-1]) * lengths[-1], MICRON)
    )


@dataclass(slots=True)
class Shopping:
    """What is bought: the lines with their cost, the wire roll by roll, what it comes to."""

    lines: list[ListLine]
    rolls: dict[str, list[Roll]]
    sold: WireSold
    total: Figure
    without_price: Figure
    worth: Figure
    per_kwh: Figure | None
    compared: dict[str, Figure]


def shop(listed: PartsList, pieces: list[Piece], decided: Assembly, available: Figure, sheet: Sheet) -> Shopping:
    """What is bought of a list, and what it costs. available: usable energy at the posts, Wh."""
    sold = wire_sold(decided.wire_sold == "roll", units_shown())
    rolls: dict[str, list[Roll]] = {}
    for line in listed.by_group():
        line.need = Figure.of("n", round(line.count, MICRON), line.unit, f"needed, {line.what}", how="counted in the design")
        line.owned = decided.owned.get(line.key) or 0.0
        line.price = priced(line, decided)
        if line.group == "wire":
            cuts = cuts_of(line.key, pieces)
            rolls[line.key] = cut_from(cuts, sold.lengths_m, line.owned, decided.wire_spare)
            metres = sum(roll.length for roll in rolls[line.key] if not roll.owned)
            how = f"{sold.label}: the longest piece first, each from the first length that has it"
            line.buy = Figure.of("n_b", round(metres, MICRON), "m", f"to buy, {line.what}", how=how, inputs={"n": line.need})
        else:
            line.buy = bought(line)
        if line.price is not None and not line.comes_with:
            cost = Figure.by("c_n", "n_b · c", "money", line.what, n_b=line.buy, c=line.price)
            line.cost = Figure.of(
                "c_n", round(cost.number, CENT), "money", line.what, how="to the cent", inputs={"n_b · c": cost}
            )
    lines = listed.by_group()
    known = {f"{line.what} {line.rating} ({line.key})": line.cost for line in lines if line.cost is not None}
    total = sheet.put("assembly/total", Figure.by("c", "sum", "money", "to buy", known))
    missing = [line for line in lines if line.cost is None and not line.comes_with and line.buy.number > 0]
    how = "lines to buy of which no price is known"
    without = sheet.put("assembly/without_price", Figure.of("n", len(missing), "", "lines without a price", how=how))
    worth = sum(
        round(line.price.number * max(line.need.number, line.buy.number), CENT)
        for line in lines
        if line.price is not None and not line.comes_with
    )
    how = "what is there already counted as if it were bought"
    whole = sheet.put("assembly/worth", Figure.of("c_all", round(worth, CENT), "money", "all of it", how=how))
    per_kwh = None
    if available.number > 0:
        per_kwh = Figure.by("c_kWh", "1000 · c / E_avail", "money", "for a usable kWh", c=total, E_avail=available)
        sheet.put("assembly/per_kwh", per_kwh)
    compared = compare(decided.alternatives, total, available)
    for name, figure in compared.items():
        sheet.put(f"assembly/alternatives/{name}", figure)
    return Shopping(lines, rolls, sold, total, without, whole, per_kwh, compared)


def cuts_of(key: str, pieces: list[Piece]) -> list[float]:
    """The pieces that are cut of the wire of a line, m."""
    return [
        piece.cut.number
        for piece in pieces
        if slug("wire", piece.gauge, "cable" if piece.cores > 1 else piece.colour) == key
        for _ in range(piece.count)
    ]


def bought(line: ListLine) -> Figure:
    """How many of a line are bought: what is needed less what is there, in whole packets where it is sold in those."""
    need = line.need
    there = Figure.decided("n_o", line.owned, line.unit, f"there already, {line.what}", f"/assembly/owned/{line.key}")
    left = Figure.by("n_l", "max(0, n − n_o)", line.unit, f"still needed, {line.what}", n=need, n_o=there)
    if line.packet:
        packets = ceil(round(left.number / line.packet, MICRON))
        how = f"whole packets of {line.packet}"
        return Figure.of("n_b", packets * line.packet, line.unit, f"to buy, {line.what}", how=how, inputs={"n_l": left})
    if line.unit:  # what is cut is sold by the tenth of a metre
        how = "by the tenth of a metre"
        return Figure.of(
            "n_b", ceil(round(left.number * 10, 4)) / 10, line.unit, f"to buy, {line.what}", how=how, inputs={"n_l": left}
        )
    return Figure.of("n_b", ceil(round(left.number, 4)), "", f"to buy, {line.what}", how="whole ones", inputs={"n_l": left})


def compare(other: Alternatives, total: Figure, available: Figure) -> dict[str, Figure]:
    """What else would serve, by the prices typed in: a kWh of a ready-made one, and after how many uses this one pays for itself.

    Source: money (definition); fuel of a small generator at half its load (assumptions table).
    """
    out: dict[str, Figure] = {}
    at = "/assembly/alternatives"

    def money(symbol: str, name: str, label: str) -> Figure:
        return Figure.decided(symbol, getattr(other, name), "money", label, f"{at}/{name}")

    if other.ready_made is not None:
        energy = available
        if other.ready_made_wh is not None:
            energy = Figure.decided("E_r", other.ready_made_wh, "Wh", "it gives", f"{at}/ready_made_wh")
        if energy.number > 0:
            price = money("c_r", "ready_made", "price of a ready-made one")
            out["ready_made_kwh"] = Figure.by(
                "c_kWh", "1000 · c_r / E_r", "money", "for a kWh of a ready-made one", c_r=price, E_r=energy
            )
    refill = Figure.of("c_u", 0.0, "money", "to refill this one for a use", how="no price of energy is typed in")
    if other.energy_price is not None:
        price = money("p_e", "energy_price", "of a kWh from the wall")
        refill = Figure.by("c_u", "p_e · E_avail / 1000", "money", "to refill this one for a use", p_e=price, E_avail=available)
    if other.hire_day is not None:
        day, days = (
            money("c_d", "hire_day", "hire for a day"),
            Figure.decided("n_d", other.use_days, "", "days of a use", f"{at}/use_days"),
        )
        use = Figure.by("c_h", "c_d · n_d", "money", "hire for a use", c_d=day, n_d=days)
        out |= {"hire_use": use, "hire_uses": uses(total, None, use, refill, "than hire")}
    if other.fuel_price is not None:
        rate = assumption("fuel_rate")
        if other.fuel_l_h is not None:
            rate = Figure.decided("q_f", other.fuel_l_h, "", "litres of fuel an hour", f"{at}/fuel_l_h")
        price, hours = (
            money("p_f", "fuel_price", "of a litre of fuel"),
            Figure.decided("t_u", other.use_h, "h", "hours of a use", f"{at}/use_h"),
        )
        use = Figure.by("c_g", "q_f · p_f · t_u", "money", "fuel for a use", q_f=rate, p_f=price, t_u=hours)
        first = money("c_gen", "generator", "price of a generator") if other.generator is not None else None
        out |= {"fuel_use": use, "fuel_uses": uses(total, first, use, refill, "than a generator")}
    return out


def uses(total: Figure, first: Figure | None, use: Figure, refill: Figure, than: str) -> Figure:
    """After how many uses this build has cost less than something that costs so much for each, and so much at first; 0 where it does from
    the beginning, "never" where each use of it costs as much."""
    inputs = {"c": total, "c_use": use, "c_u": refill} | ({"c_first": first} if first else {})
    more = total.number - (first.number if first else 0.0)
    saved = use.number - refill.number
    label = f"uses until it is cheaper {than}"
    how = "what it costs more at first, over what each use saves"
    if more <= 0:
        return Figure.of("N", 0, "", label, how="it costs less at first", inputs=inputs)
    if saved <= 0:
        return Figure.of("N", "never", "", label, how="a use of it costs as much", inputs=inputs)
    return Figure.of("N", ceil(round(more / saved, MICRON)), "", label, how=how, inputs=inputs)
