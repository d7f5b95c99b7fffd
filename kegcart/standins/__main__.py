"""The stand-ins of a design, until they are ended: `python -m kegcart.standins FILE`. Their addresses are the first line, as JSON."""

import argparse
import json
import sys
import time
from pathlib import Path
from random import Random

from kegcart.core.assess import assess
from kegcart.core.bench.dealt import DEALT, can_be_dealt
from kegcart.core.bench.station import station_of
from kegcart.core.design import DesignError, read_design
from kegcart.core.log.file import FORMAT
from kegcart.instruments.finding import FIRST_PORT
from kegcart.standins.bench import StandInBench, instruments_of
from kegcart.standins.servers import serve

ANY = "any"
ALONE_S = 600.0
"""Stand-ins that nobody asks for so long end by themselves."""


def main() -> int:
    parser = argparse.ArgumentParser(description="Serve stand-ins for the instruments of a design's load test.")
    parser.add_argument("file", help="a design as JSON, or - for standard input")
    parser.add_argument("--seed", type=int, default=1, help="by which its true figures differ from the design's")
    parser.add_argument("--speed", type=float, default=1.0, help="how much faster than a clock its time goes, up to 600")
    parser.add_argument(
        "--fault", default="", choices=("", ANY, *DEALT), help="what is wrong with it besides; any: one by the seed, untold"
    )
    parser.add_argument("--port", type=int, default=FIRST_PORT, help="the first port; 0: any that are free")
    options = parser.parse_args()
    try:
        data = json.loads(sys.stdin.read() if options.file == "-" else Path(options.file).read_text(encoding="utf-8"))
        design = read_design(data.get("design") if isinstance(data, dict) and data.get("format") == FORMAT else data)
        found = assess(design)
        if found.loads.peak.running.number <= 0 and not found.power.inverters:
            raise ValueError("nothing can be tested yet: put in loads, and lay out their path")
        if options.fault == ANY:
            options.fault = Random(options.seed).choice(can_be_dealt(station_of(found)))
        bench = StandInBench(found, options.seed, min(max(options.speed, 0.1), 600.0), options.fault)
        stand_ins = instruments_of(bench)
        try:
            servers = serve(stand_ins, options.port)
        except OSError:  # others stand there already
            servers = serve(stand_ins)
    except (OSError, ValueError, DesignError) as error:
        print(f"keg cart: {error}", file=sys.stderr)
        return 1
    there = [{"name": s.stand_in.name, "address": s.address} for s in servers]
    # Who reads the design from a pipe keeps what was dealt to himself until he is asked.
    print(json.dumps({"stand_ins": there, "dealt": bench.dealt} if options.file == "-" else there), flush=True)
    try:
        while time.monotonic() - max(server.asked for server in servers) < ALONE_S:
            time.sleep(1.0)
    except KeyboardInterrupt:
        print()
    return 0


if __name__ == "__main__":
    sys.exit(main())
