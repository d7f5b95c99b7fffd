"""The application that the server runs."""

import gc
import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kegcart.site.settings")
application = get_asgi_application()
# What is loaded now stays: the collector need not walk it again at every request.
gc.collect()
gc.freeze()
# An assessment is thousands of small objects without cycles: looking for cycles at each of them costs more than it frees.
gc.set_threshold(50_000, 20, 20)
