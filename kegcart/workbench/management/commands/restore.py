from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from kegcart.workbench import storage


class Command(BaseCommand):
    help = "Bring back a backup; what stood before is kept beside it."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            kept = storage.restore(options["file"])
        except storage.StorageError as error:
            raise CommandError(str(error)) from None
        call_command("migrate", verbosity=0)
        before = f"; what stood before is in {kept}" if kept else ""
        self.stdout.write(f"the data of {options['file']} is back{before}")
