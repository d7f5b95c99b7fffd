import json
from typing import Any

from django.core.management.base import BaseCommand

from kegcart.workbench.api import api


class Command(BaseCommand):
    help = "Print the OpenAPI description, from which the screen's types are generated."

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(json.dumps(api.get_openapi_schema(), indent=1, ensure_ascii=False))
