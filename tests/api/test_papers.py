"""Papers in any script: what the shipped fonts hold is printed, what they lack is marked."""

from unittest import TestCase, mock

from kegcart.core.check import Verdict, closest_first
from kegcart.core.forecast import forecast
from kegcart.core.places import about
from kegcart.core.units import shown_in
from kegcart.workbench import papers
from kegcart.workbench.papers import BOLD, LACKING, REGULAR, WIDER, new_canvas, write
from tests.core.samples import demo, judge, put


class Scripts(TestCase):
    def printed(self, words: str, anchor: str = "start", bold: bool = False) -> list[tuple[str, str, float]]:
        """Font, letters and place of each piece."""
        canvas, *_ = new_canvas("a4", False, words)
        out = []
        with mock.patch.object(canvas, "drawString", lambda x, y, text: out.append((canvas._fontname, text, x))):
            write(canvas, 100, 0, words, 10, bold, anchor)  # type: ignore[arg-type]
        return out

    def test_latin_greek_and_cyrillic_are_printed_in_letters(self) -> None:
        for words in ("Boîte à énergie, żółć, Ő", "Κιβώτιο ενέργειας", "Ящик с энергией, ґанок", "5 mΩ · 2 m² ≤ 3 → 4"):
            pieces = self.printed(words)
            self.assertEqual("".join(text for _, text, _ in pieces), words)
            self.assertLessEqual({font for font, _, _ in pieces}, {REGULAR, WIDER[REGULAR]})
        self.assertEqual(self.printed("Greek: Ω mega", bold=True)[0][0], BOLD)

    def test_a_letter_that_no_font_has_is_marked(self) -> None:
        self.assertEqual("".join(text for _, text, _ in self.printed("電源 box 😀")), f"{LACKING * 2} box {LACKING}")

    def test_pieces_follow_one_another_from_any_anchor(self) -> None:
        starts = {anchor: self.printed("abcЯщикabc", anchor) for anchor in ("start", "middle", "end")}
        widths = {anchor: pieces[-1][2] - pieces[0][2] for anchor, pieces in starts.items()}
        self.assertEqual(len({round(w, 6) for w in widths.values()}), 1)
        self.assertEqual([len(pieces) for pieces in starts.values()], [3, 3, 3])
        self.assertEqual(starts["start"][0][2], 100)
        whole = 2 * (100 - starts["middle"][0][2])
        self.assertAlmostEqual(100 - starts["end"][0][2], whole)
        self.assertGreater(whole, widths["start"])


class Verification(TestCase):
    """The verification table on paper: what stands on it is what was judged."""

    def test_every_check_is_printed_with_its_figures_what_fails_first(self) -> None:
        a = judge(demo("wobbly-stall"))
        seen = forecast(a)
        checks = [*a.checks, *seen.checks]
        with mock.patch.object(papers, "write") as written:
            self.assertTrue(papers.checks_pdf(seen, "a4").startswith(b"%PDF"))
        cells = [call.args[3] for call in written.call_args_list]
        order = closest_first(checks)
        starts = [n for n, words in enumerate(cells) if words in ("holds", "stop", "mend", "note", "waits")]
        self.assertEqual(len(starts), len(checks))
        for n, check in zip(starts, order, strict=True):
            came_out, of, title, figure, limit, used = cells[n : n + 6]
            self.assertEqual(came_out, {Verdict.HOLDS: "holds", Verdict.OPEN: "waits"}.get(check.verdict, came_out))
            self.assertEqual(of, papers.shortened(about(check.place, a.design), 34))
            if check.finding and check.verdict is Verdict.FAILS:
                self.assertEqual(came_out, check.finding.severity.value)
            if check.missing:
                self.assertIn("missing: ", title)
            elif check.figure and check.limit:
                self.assertEqual((figure, limit), (check.figure.text, f"{check.bound.value} {check.limit.text}"))
            self.assertEqual(used, "" if check.used is None else f"{check.used * 100:.0f} %")


class Ruler(TestCase):
    """At true scale there is something to lay a rule against, in the builder's units."""

    def test_its_length_is_what_it_says(self) -> None:
        for units, said, length_mm in (("metric", "measure 100 mm here", 100.0), ("us", "measure 4 in here", 101.6)):
            a = judge(put(demo("hollow-oak"), "/brief/units", units))
            with (
                shown_in(a.design.brief.units),
                mock.patch.object(papers, "write") as written,
                mock.patch("reportlab.pdfgen.canvas.Canvas.line", autospec=True) as drawn,
            ):
                papers.pack_pdf(a, "top", "a4", True)
            self.assertTrue(any(said in str(call.args[3]) for call in written.call_args_list), units)
            lengths = [abs(c.args[3] - c.args[1]) / papers.MM for c in drawn.call_args_list if c.args[2] == c.args[4]]
            self.assertTrue(any(abs(length - length_mm) < 0.01 for length in lengths), units)
