"""A short round of the attack; the whole is `python3 run.py attack`."""

from unittest import TestCase

from kegcart.workbench.attack import attacks


class ShortAttack(TestCase):
    def holds(self, *rows: attacks.Row) -> None:
        for row in rows:
            self.assertTrue(row.holds, str(row))

    def test_nothing_acknowledged_is_lost_or_done_twice_when_the_server_is_killed(self) -> None:
        self.holds(attacks.kills(60, 3, 8))

    def test_hostile_files_are_refused_with_a_reason(self) -> None:
        self.holds(attacks.hostile()[0])  # how long it takes is measured by the command

    def test_a_full_disk_is_told_as_what_it_is(self) -> None:
        self.holds(attacks.full_disk())
