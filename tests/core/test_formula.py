"""The formula on the screen is the one that is computed: what can be written, and what is refused."""

import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.figure import Figure
from kegcart.core.formula import FormulaError, fitting
from tests import tried


def figures(**values: float) -> dict[str, Figure]:
    return {symbol: Figure.of(symbol, value, "") for symbol, value in values.items()}


class Formulas(TestCase):
    def test_written_as_the_trade_writes_them(self) -> None:
        for formula, values, result in (
            ("C · V_nom", {"C": 100, "V_nom": 25.6}, 2560),
            ("(E + √(E^2 − 4 · R · P)) / 2", {"E": 52.0, "R": 0.028, "P": 2778}, 50.458),
            ("S / P · r", {"S": 8, "P": 2, "r": 0.25}, 1),
            ("x · (1 + g)", {"x": 10, "g": 0.5}, 15),
            ("I · S / S'", {"I": 100, "S": 8, "S'": 16}, 50),
            ("max(a, b) − min(a, b)", {"a": 3, "b": 5}, 2),
            ("−a^2", {"a": 3}, -9),
            ("sum", {"a": 3, "b": 5}, 8),
            ("sum", {}, 0),
            ("min", {"a": 3, "b": 5}, 3),
        ):
            figure = Figure.by("y", formula, "", "", figures(**values))
            self.assertAlmostEqual(figure.number, result, places=3, msg=formula)
            self.assertEqual(figure.formula, formula)

    def test_what_does_not_fit_its_inputs_is_refused_by_name(self) -> None:
        for formula, symbols, said in (
            ("a + b", ("a",), "names b"),
            ("a", ("a", "b"), "leaves out b"),
            ("a +", ("a",), "cannot be read"),
            ("a ; b", ("a", "b"), "cannot be read"),
            ("__import__('os')", (), "cannot be read"),
            ("a.b", ("a", "b"), "cannot be read"),
        ):
            with self.assertRaises(FormulaError) as caught:
                fitting(formula, set(symbols))
            self.assertIn(said, str(caught.exception))

    @tried(300)
    @given(st.floats(0.01, 1e4), st.floats(0.01, 1e4), st.floats(0.01, 1e4))
    def test_order_of_operations_is_that_of_arithmetic(self, a: float, b: float, c: float) -> None:
        given = figures(a=a, b=b, c=c)
        self.assertTrue(math.isclose(Figure.by("y", "a + b · c", "", "", given).number, a + b * c))
        self.assertTrue(math.isclose(Figure.by("y", "a / b / c", "", "", given).number, a / b / c))
        self.assertTrue(math.isclose(Figure.by("y", "a − b − c", "", "", given).number, a - b - c, abs_tol=1e-9))

    def test_nothing_is_lost_where_something_is_nothing(self) -> None:
        with self.assertRaises(ZeroDivisionError):
            Figure.by("y", "a / b", "", "", figures(a=1, b=0))
