"""The whole attack: `python3 run.py attack [--seed N]`. Ends with 1 where something does not hold."""

import argparse
import os
import sys

import django


def main() -> int:
    parser = argparse.ArgumentParser(description="Attack a running server, and tell what it withstands.")
    parser.add_argument("--seed", type=int, default=8)
    seed = parser.parse_args().seed
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kegcart.site.settings")
    django.setup()
    from tests.attack import attacks

    print(f"{'what':<44}{'promised':<34}found (seed {seed})")
    holds = True
    for attack in (
        lambda: [attacks.kills(1000, 50, seed)],
        lambda: attacks.fuzzed(10_000, seed),
        lambda: [attacks.hostile()],
        lambda: [attacks.two_tabs()],
        lambda: [attacks.full_disk()],
        lambda: [attacks.many_designs(1000)],
    ):
        for row in attack():
            print(row, flush=True)
            holds = holds and row.holds
    return int(not holds)


if __name__ == "__main__":
    sys.exit(main())
