import sys
from collections.abc import Callable
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from kegcart.workbench.attack import attacks


class Command(BaseCommand):
    help = "Attack a running server, and tell what it withstands; ends with 1 where something does not hold."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--seed", type=int, default=8)

    def handle(self, *args: Any, **options: Any) -> None:
        seed = options["seed"]
        self.stdout.write(f"{'what':<44}{'promised':<34}found (seed {seed})")
        holds = True
        every: list[Callable[[], list[attacks.Row]]] = [
            lambda: [attacks.kills(1000, 50, seed)],
            lambda: attacks.fuzzed(10_000, seed),
            attacks.hostile,
            lambda: [attacks.two_tabs()],
            lambda: [attacks.full_disk()],
            lambda: [attacks.many_designs(1000)],
        ]
        for attack in every:
            for row in attack():
                self.stdout.write(str(row))
                self.stdout.flush()
                holds = holds and row.holds
        if not holds:
            sys.exit(1)
