"""The sheet for the lid and the build book: nothing cut off on either paper, numbered as the contents say, known again by their digest."""

import hashlib
import io
import json
from datetime import date
from typing import Any
from unittest import mock

from django.test import TestCase
from pypdf import PdfReader

from kegcart.workbench import book, demos, lid_papers
from kegcart.workbench.models import StoredDesign
from kegcart.workbench.papers import MM, SIZES, Paper, width_of
from tests.api.test_photos import picture
from tests.core.samples import demo, judge

SCRIPTS = "Łódź, Ящик, Ωμέγα, ČĐŠŽ, ñ, ß, đ, 電"


def with_long_names(data: dict[str, Any]) -> dict[str, Any]:
    """A build whose names are as long as they may be, in every script that the shipped fonts have and one that they lack."""
    data["name"] = f"{data['name']} {SCRIPTS} {'long ' * 20}"[:80].strip()
    data["brief"]["purpose"] = f"{SCRIPTS}. " * 12
    for node in data["power"]["network"].values():
        node["name"] = f"{node['name']}, as long as a name may be: {SCRIPTS}"[:60]
    return data


class LidPaper(TestCase):
    def printed(self, data: dict[str, Any], paper: Paper) -> list[tuple[float, float, float, str]]:
        """What stands on it: left and right edge and foot of the words, mm; and the words."""
        with mock.patch.object(lid_papers, "write", wraps=lid_papers.write) as written:
            pdf = lid_papers.lid_pdf(judge(data), paper, date(2026, 5, 4))
        self.assertTrue(pdf.startswith(b"%PDF"))
        calls = [(c.args[1:5], c.kwargs.get("bold", False)) for c in written.call_args_list]
        return [(x / MM, x / MM + width_of(said, size, bold), y / MM, said) for (x, y, said, size), bold in calls]

    def test_nothing_is_cut_off_or_crosses_the_fold(self) -> None:
        for paper, (height, width) in SIZES.items():
            for left, right, foot, said in self.printed(with_long_names(demo("lantern-lane")), paper):
                self.assertTrue(left > 8 and right < width - 8 and 3 < foot < height - 8, (paper, said))
                self.assertFalse(left < width / 2 - 0.1 and right > width / 2 + 0.1 and foot > 8, (paper, said))

    def test_a_build_with_many_fuses_goes_on_to_further_sheets(self) -> None:
        data = demo("tidewater")
        network = data["power"]["network"]
        fuse = next(k for k, n in network.items() if n["part"] == "protection" and n["feed"].endswith("block"))
        for n in range(40):
            network[f"more-{n}"] = network[fuse] | {"name": f"Circuit {n}"}
        said = [words for *_, words in self.printed(data, "letter")]
        self.assertEqual([n for n in range(40) if f"Circuit {n}" not in said], [])


class Book(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        demos.load_builds()

    def setUp(self) -> None:
        self.at = f"/api/designs/{StoredDesign.objects.get(demo='hollow-oak').pk}"

    def read(self, path: str) -> PdfReader:
        answer = self.client.get(self.at + path)
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        return PdfReader(io.BytesIO(answer.content))

    def test_its_chapters_stand_where_the_contents_say_and_what_was_recorded_is_among_them(self) -> None:
        query = "entry=p&item=p&what=The%20first%20fit"
        self.assertEqual(
            self.client.post(f"{self.at}/photos?{query}", picture(640, 480), content_type="image/jpeg").status_code, 200
        )
        made = self.read("/book.pdf")
        contents = made.pages[0].extract_text()
        heads = {"Assembly": "shopping list", "Log": "time line", "Photos": "The first fit", "Verification": "verification"}
        starts = {str(o.title): made.get_destination_page_number(o) for o in made.outline}  # type: ignore[union-attr, arg-type]
        for title, number in starts.items():
            self.assertRegex(contents, rf"{title}\n{number + 1}\n")  # type: ignore[operator]
            said = made.pages[number].extract_text()  # type: ignore[index]
            self.assertIn(heads.pop(title, ""), said)
            self.assertIn(f"page {number + 1} of {len(made.pages)}", said)  # type: ignore[operator]
        self.assertEqual(heads, {})
        log = "\n".join(page.extract_text() for page in made.pages[starts["Log"] : starts["Photos"]])  # type: ignore[misc]
        moments = json.loads(self.client.get(f"{self.at}/timeline").content)["rows"]
        self.assertGreater(len(moments), 20)
        self.assertEqual([m["title"] for m in moments if m["title"].split(",")[0][:18] not in log], [])

    def test_every_page_is_of_the_paper_that_is_asked_for(self) -> None:
        self.at = f"/api/designs/{StoredDesign.objects.get(demo='tidewater').pk}"
        for query, size in (("", SIZES["a4"]), ("?paper=letter", SIZES["letter"])):
            for page in self.read(f"/book.pdf{query}").pages:
                found = sorted(float(x) / MM for x in (page.mediabox.width, page.mediabox.height))
                self.assertAlmostEqual(found[0], min(size), 1)
                self.assertAlmostEqual(found[1], max(size), 1)

    def test_sheet_book_and_screen_name_the_digest_of_the_exported_design(self) -> None:
        origin = StoredDesign.objects.get(demo="tidewater").pk
        copy = json.loads(self.client.post(f"/api/designs/{origin}/copy").content)[
            "id"
        ]  # without a record its file is the design alone
        self.at = f"/api/designs/{copy}"
        digest = hashlib.sha256(self.client.get(f"{self.at}/file").content).hexdigest()
        self.assertEqual(json.loads(self.client.get(f"{self.at}/assembly").content)["digest"], digest)
        self.assertIn(digest[:16], self.read("/lid.pdf").pages[0].extract_text())
        self.assertIn(digest[:16], self.read("/book.pdf").pages[0].extract_text())

    def test_without_anything_recorded_its_log_is_left_out(self) -> None:
        made = book.book_pdf(
            judge(demo("tidewater")), book.BookRecord([], [], book.Marked({}, frozenset())), "a4", date(2026, 1, 2)
        )
        titles = [item.title for item in PdfReader(io.BytesIO(made)).outline]  # type: ignore[union-attr]
        self.assertEqual((titles[0], titles[-1]), ("Brief, loads and charging", "Sheet for the lid"))
