"""The lists that decisions are chosen from: one place, whole, and with words for every value."""

import json
from typing import Annotated, Any, Literal, get_args, get_origin
from unittest import TestCase

from kegcart.core.design import Design, DesignError, read_design
from kegcart.core.document import Said, choices, choices_at, models_in, options_of
from kegcart.core.pack.document import PlacedCell
from kegcart.core.pack.forms import FORMS
from kegcart.core.pack.rack import Measured, limits_of
from kegcart.core.power.kinds import KINDS
from tests.core.samples import demo


def literals(annotation: Any) -> set[Any]:
    """The values of every `Literal` within a type, but for those within another model."""
    if get_origin(annotation) is Literal:
        return set(get_args(annotation))
    return set().union(*(literals(a) for a in get_args(annotation)), set())


class ChoicesTest(TestCase):
    def test_words_stand_for_every_value_and_no_other(self) -> None:
        """A value without words could not be chosen, and words without a value would be refused."""
        seen = 0
        for model in dict.fromkeys(models_in(Design)):
            for name, options in choices(model).items():
                field = model.model_fields[name]
                values = literals(field.annotation)
                if any(isinstance(m, Said) for m in field.metadata) or values:
                    self.assertIn(
                        {v for v, _ in options}, ({True, False}, values or {v for v, _ in options}), f"{model.__name__}.{name}"
                    )
                    self.assertTrue(all(words for _, words in options))
                    seen += 1
        self.assertGreater(seen, 30)

    def test_the_words_of_a_value_or_the_value_itself(self) -> None:
        plain, said = Literal["dry", "wet"], Annotated[Literal["mm2", "awg"], Said((("mm2", "mm²"), ("awg", "AWG")))]
        self.assertEqual(options_of(plain), (("dry", "dry"), ("wet", "wet")))
        self.assertEqual(options_of(said | None), (("mm2", "mm²"), ("awg", "AWG")))
        self.assertEqual(options_of(float | None), ())

    def test_every_choice_a_kind_asks_for_has_a_list(self) -> None:
        for kind in KINDS.values():
            for field in kind.facts.fields:
                if field.control == "choice":
                    self.assertTrue(choices_at(kind.model, field.field), f"{kind.key}.{field.field}")

    def test_every_form_of_pack_is_named(self) -> None:
        pack = Design.model_fields["pack"].annotation
        forms = set().union(*(literals(m.model_fields["form"].annotation) for m in models_in(pack) if "form" in m.model_fields))
        self.assertEqual(set(FORMS), forms)
        self.assertTrue(all(form.names[key] for key, form in FORMS.items()))


class CellLimitsTest(TestCase):
    """A measured cell is taken, or refused, alike on the rack and in a design."""

    def test_rack_and_design_take_the_same(self) -> None:
        placed = PlacedCell.model_json_schema()["properties"]
        for name in ("capacity_ah", "resistance_mohm", "resting_v", "label"):
            here = placed[name]
            here = next((s for s in here.get("anyOf", ()) if s["type"] != "null"), here)
            wanted = {k: v for k, v in limits_of(name).items() if k in ("maximum", "minimum", "exclusiveMinimum", "maxLength")}
            self.assertEqual({k: here[k] for k in wanted}, wanted, name)
        self.assertEqual(limits_of("capacity_ah")["maximum"], 5000)

    def test_just_over_is_refused_in_both(self) -> None:
        with self.assertRaisesRegex(ValueError, "less than or equal to 5000"):
            Measured(capacity_ah=5000.1)
        data = demo("hollow-oak")
        next(iter(data["pack"]["groups"].values()))["cells"][0]["capacity_ah"] = 5000.1
        with self.assertRaisesRegex(DesignError, "at most 5000"):
            read_design(data)


class PublishedSchemaTest(TestCase):
    def test_limits_are_said_in_the_words_of_json_schema(self) -> None:
        """Outside programs read the limits from the schema: words that it does not have would be passed over."""
        text = json.dumps(Design.model_json_schema())
        for word in ("ge", "le", "gt", "lt"):
            self.assertNotIn(f'"{word}":', text)
        self.assertEqual(Design.model_json_schema()["$defs"]["Run"]["properties"]["length_m"]["maximum"], 200)
