"""The forms of pack. A new form is a file beside these, and a line in the list here."""

from typing import Any

from kegcart.core.pack.document import Planning
from kegcart.core.pack.forms.base import PackForm
from kegcart.core.pack.forms.batteries import BankForm, OneBatteryForm
from kegcart.core.pack.forms.cells import CellsForm

#: The forms by the `form` of their document.
FORMS: dict[str, PackForm[Any]] = {name: form for form in (OneBatteryForm(), BankForm(), CellsForm()) for name in form.names}


def form_of(pack: Planning) -> PackForm[Any]:
    """The form of a pack."""
    return FORMS[pack.form]
