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
        for name in ("lantern-lane", "tidewater"):
            for paper, (height, width) in SIZES.items():
                for left, right, foot, said in self.printed(with_long_names(demo(name)), paper):
                    self.assertTrue(left > 8 and right < width - 8 and 3 < foot < height - 8, (name, paper, said))
                    self.assertFalse(left < width / 2 - 0.1 and right > width / 2 + 0.1 and foot > 8, (name, paper, said))

    def test_a_build_with_many_fuses_goes_on_to_further_sheets(self) -> None:
        data = demo("tidewater")
        network = data["power"]["network"]
        fuse = next(k for k, n in network.items() if n["part"] == "protection" and n["feed"].endswith("block"))
        for n in range(40):
            network[f"more-{n}"] = network[fuse] | {"name": f"Circuit {n}"}
        said = [words for *_, words in self.printed(data, "letter")]
        self.assertEqual([n for n in range(40) if f"Circuit {n}" not in said], [])


class Book(TestCase):
    def setUp(self) -> None:
        demos.load_builds()
        self.at = f"/api/designs/{StoredDesign.objects.get(demo='hollow-oak').pk}"

    def read(self, path: str) -> PdfReader:
        answer = self.client.get(self.at + path)
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        return PdfReader(io.BytesIO(answer.content))

    def test_its_chapters_stand_where_the_contents_say(self) -> None:
        query = "entry=p&item=p&what=The%20first%20fit"
        self.assertEqual(
            self.client.post(f"{self.at}/photos?{query}", picture(640, 480), content_type="image/jpeg").status_code, 200
        )
        for query, (width, height) in (("", SIZES["a4"]), ("?paper=letter", SIZES["letter"])):
            made = self.read(f"/book.pdf{query}")
            contents = made.pages[0].extract_text()
            heads = {"Assembly": "shopping list", "Log": "time line", "Photos": "The first fit", "Verification": "verification"}
            for item in made.outline:
                number = made.get_destination_page_number(item)  # type: ignore[arg-type]
                self.assertRegex(contents, rf"{item.title}\n{number + 1}\n")  # type: ignore[union-attr]
                self.assertIn(heads.pop(item.title, ""), made.pages[number].extract_text())  # type: ignore[union-attr]
            self.assertEqual(heads, {})
            for n, page in enumerate(made.pages, 1):
                self.assertIn(f"page {n} of {len(made.pages)}", page.extract_text())
                size = sorted(float(x) / MM for x in (page.mediabox.width, page.mediabox.height))
                self.assertAlmostEqual(size[0], min(width, height), 1)
                self.assertAlmostEqual(size[1], max(width, height), 1)

    def test_sheet_book_and_screen_name_the_digest_of_the_exported_design(self) -> None:
        copy = json.loads(self.client.post(f"{self.at}/copy").content)["id"]  # a copy has no record: its file is the design alone
        self.at = f"/api/designs/{copy}"
        digest = hashlib.sha256(self.client.get(f"{self.at}/file").content).hexdigest()
        self.assertEqual(json.loads(self.client.get(f"{self.at}/assembly").content)["digest"], digest)
        self.assertIn(digest[:16], self.read("/lid.pdf").pages[0].extract_text())
        self.assertIn(digest[:16], self.read("/book.pdf").pages[0].extract_text())

    def test_what_was_recorded_stands_in_it(self) -> None:
        said = "\n".join(page.extract_text() for page in self.read("/book.pdf").pages)
        moments = json.loads(self.client.get(f"{self.at}/timeline").content)["rows"]
        self.assertGreater(len(moments), 20)
        for moment in moments:
            self.assertIn(moment["title"].split(",")[0][:18], said)

    def test_without_anything_recorded_its_log_is_left_out(self) -> None:
        made = book.book_pdf(
            judge(demo("tidewater")), book.BookRecord([], [], book.Marked({}, frozenset())), "a4", date(2026, 1, 2)
        )
        titles = [item.title for item in PdfReader(io.BytesIO(made)).outline]  # type: ignore[union-attr]
        self.assertEqual((titles[0], titles[-1]), ("Brief, loads and charging", "Sheet for the lid"))
