"""The tests. Properties are tried on the same examples each time, so that what was green stays so until something is changed.

`python3 run.py prove` tries them at their full size; `test` on a tenth of that. With KEGCART_EXPLORE=1 in the environment
they are tried on new examples.
"""

import os
from typing import Any

from hypothesis import settings
from hypothesis.internal.conjecture import providers
from hypothesis.internal.constants_ast import Constants

settings.register_profile("steady", derandomize=True, deadline=None)
settings.register_profile("exploring", deadline=None)
EXPLORING = bool(os.environ.get("KEGCART_EXPLORE"))
settings.load_profile("exploring" if EXPLORING else "steady")
if not EXPLORING:
    # Else numbers that stand in the source of whatever is loaded are tried too: other examples in each process, and after each change.
    providers._get_local_constants = Constants

PROVING = bool(os.environ.get("KEGCART_PROVE"))


def tried(cases: int, daily: int = 0, **more: Any) -> settings:
    """A property that holds for so many cases; the daily tests try a tenth of them, or `daily` where a case takes long."""
    return settings(max_examples=cases if PROVING else daily or max(1, cases // 10), **more)
