"""The application that the server runs."""

import gc
import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kegcart.site.settings")
application = get_asgi_application()
# What is loaded now stays: the collector need not walk it again at every request.
gc.collect()
gc.freeze()
