"""What of the shopping list was bought: what that came to, and what is still to pay."""

from collections.abc import Mapping

from kegcart.core.assembly.lines import CENT, ListLine
from kegcart.core.assembly.shopping import Shopping
from kegcart.core.figure import Figure

Bought = Mapping[str, float]
"""How many of each line of the list were bought, or how many m, by its key."""


def still_to_buy(line: ListLine, bought: Bought) -> float:
    """How many of a line are still to be bought, or how many m: a design that grew wants more than was bought for it."""
    return max(0.0, round(line.buy.number - bought.get(line.key, 0.0), 6)) if not line.comes_with else 0.0


def left_to_pay(shopping: Shopping, bought: Bought) -> Figure:
    """What the lines that are not bought yet cost together.

    Source: sum over the lines, each to the cent.
    """
    costs = {
        f"{line.what} {line.rating} ({line.key})": Figure.of(
            "c_n", round(line.price.number * left, CENT), "money", line.what, how="what is not bought yet, to the cent"
        )
        for line in shopping.lines
        if line.price is not None and (left := still_to_buy(line, bought)) > 0
    }
    return Figure.by("c_left", "sum", "money", "still to buy", costs)
