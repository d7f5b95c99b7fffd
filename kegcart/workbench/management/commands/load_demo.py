from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from kegcart.workbench.demos import load_builds


class Command(BaseCommand):
    help = "Put the demo builds on the shelf, where they are not yet."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--reset", action="store_true", help="renew demo builds that were changed")

    def handle(self, *args: Any, **options: Any) -> None:
        made = load_builds(options["reset"])
        self.stdout.write(f"demo builds loaded: {', '.join(made) or 'all there'}")
