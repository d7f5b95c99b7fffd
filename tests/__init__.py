"""The tests. Properties are tried on the same examples each time, so that what was green stays so until something is changed.

With KEGCART_EXPLORE=1 in the environment they are tried on new ones.
"""

import os

from hypothesis import settings

settings.register_profile("steady", derandomize=True)
settings.register_profile("exploring")
settings.load_profile("exploring" if os.environ.get("KEGCART_EXPLORE") else "steady")
