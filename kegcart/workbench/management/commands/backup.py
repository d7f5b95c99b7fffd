from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from kegcart.workbench import storage


class Command(BaseCommand):
    help = "Write a backup of all data into a file, also while the server runs."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            storage.back_up(options["file"])
        except storage.StorageError as error:
            raise CommandError(str(error)) from None
        self.stdout.write(f"the data is in {options['file']}, and was read back whole")
