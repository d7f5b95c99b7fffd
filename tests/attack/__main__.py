"""The whole attack: `python3 run.py attack [--seed N]`. Ends with 1 where something does not hold."""

import argparse
import sys

from tests.attack import attacks


def main() -> int:
    parser = argparse.ArgumentParser(description="Attack a running server, and tell what it withstands.")
    parser.add_argument("--seed", type=int, default=8)
    seed = parser.parse_args().seed
    print(f"{'what':<44}{'promised':<34}found (seed {seed})")
    rows: list[attacks.Row] = []
    for attack in (
        lambda: [attacks.kills(1000, 50, seed)],
        lambda: attacks.fuzzed(10_000, seed),
        lambda: [attacks.hostile()],
        lambda: [attacks.two_tabs()],
        lambda: [attacks.full_disk()],
        lambda: [attacks.many_designs(1000)],
    ):
        found = attack()
        print(*found, sep="\n", flush=True)
        rows += found
    return int(not all(row.holds for row in rows))


if __name__ == "__main__":
    sys.exit(main())
