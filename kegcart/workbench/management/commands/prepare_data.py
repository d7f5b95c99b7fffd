from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError

from kegcart.workbench import cards, storage
from kegcart.workbench.demos import load_builds

FIRST_SCREEN = 24
"""Builds on the first screen of the shelf."""


class Command(BaseCommand):
    help = "Bring the database up to date, after a backup of it, and load the demo builds that are not there."

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            if storage.there() and storage.known_migrations() - storage.usable():
                kept = storage.back_up_beside("before-migration")
                self.stdout.write(f"a backup from before the data is brought up to date is in {kept}")
        except storage.StorageError as error:
            raise CommandError(str(error)) from None
        call_command("migrate", verbosity=0)
        load_builds()
        cards.shelf("", "changed", 0, FIRST_SCREEN)  # worked out now, it is there at once when it is first looked at
