"""The command line of the core: `python -m kegcart.core assess FILE`, `checks FILE`, `forecast FILE`, `simulate FILE`,
`rehearse FILE`, `learn FILE --readings CSV`.

Prints JSON. `learn` says what the readings of a load test tell of the station, and what would explain them. `checks` lists what was judged, what fails first, then the closest to its limit, and what is owed a judgement that
nobody made. Exit 0 where no stop stands, 1 where one does, 2 where the file cannot be read, with JSON pointer
and reason on standard error.
"""

import argparse
import json
import sys
from pathlib import Path

from kegcart.core.assess import Assessment, assess, write_assessment
from kegcart.core.bench.test_plan import plan_of_test, write_test_plan
from kegcart.core.catalogue import CATALOGUE
from kegcart.core.check import closest_first, write_check
from kegcart.core.design import MAX_BYTES, DesignError, read_design, read_json
from kegcart.core.forecast import course_of, forecast, write_course, write_forecast
from kegcart.core.lane import SEASONS
from kegcart.core.owed import never_made
from kegcart.core.places import about
from kegcart.core.table import TableError
from kegcart.core.units import shown_in


def main(arguments: list[str] | None = None) -> int:
    """Run a command of the core on files; returns the exit code."""
    parser = argparse.ArgumentParser(
        prog="python -m kegcart.core",
        description="Assess, judge, simulate or rehearse a design file, and learn from its load test.",
    )
    parser.add_argument("command", choices=["assess", "checks", "forecast", "simulate", "rehearse", "learn"])
    parser.add_argument("file", type=Path, help="a kegcart/design file")
    parser.add_argument(
        "--days", type=int, choices=range(1, 15), metavar="1-14", help="days to simulate (default: as in the design)"
    )
    parser.add_argument("--readings", type=Path, metavar="CSV", help="the readings of a load test, for `learn`")
    options = parser.parse_args(arguments)
    if options.command == "learn" and options.readings is None:
        parser.error("learn needs --readings CSV")
    try:
        if options.file.stat().st_size > MAX_BYTES:
            raise DesignError([("", f"the file is larger than {MAX_BYTES // 1000} kB")])
        design = read_design(read_json(options.file.read_text(encoding="utf-8-sig")))
    except (OSError, UnicodeDecodeError) as error:
        print(f"{options.file}: cannot be read: {getattr(error, 'strerror', None) or 'it is not UTF-8 text'}", file=sys.stderr)
        return 2
    except DesignError as error:
        for pointer, reason in error.problems:
            print(f"{options.file}: {pointer or '/'}: {reason}", file=sys.stderr)
        return 2
    assessment = assess(design)
    with shown_in(design.brief.units):
        try:
            out = (
                learned(assessment, options.readings)
                if options.command == "learn"
                else answer_of(options.command, assessment, options.days)
            )
        except (OSError, UnicodeDecodeError) as error:
            print(
                f"{options.readings}: cannot be read: {getattr(error, 'strerror', None) or 'it is not UTF-8 text'}",
                file=sys.stderr,
            )
            return 2
        except TableError as error:
            for problem in error.problems:
                print(f"{options.readings}: {problem}", file=sys.stderr)
            return 2
    print(json.dumps(out, ensure_ascii=False, indent=1))
    return 1 if assessment.verdict["stop"] else 0


def learned(assessment: Assessment, readings: Path) -> object:
    """What the readings of a test say of a design's station. Errors: OSError, UnicodeDecodeError, TableError."""
    from kegcart.core.bench.result import write_result  # least squares take longer to load than the other commands to run
    from kegcart.core.bench.station import station_of
    from kegcart.core.bench.tables import read_readings
    from kegcart.core.bench.test_plan import TestPlanner

    station, lines = station_of(assessment), dict(TestPlanner(assessment).stop_lines())
    return write_result(station, lines, read_readings(readings.read_text(encoding="utf-8-sig"), station))


def answer_of(command: str, assessment: Assessment, days: int | None) -> object:
    """What a command prints of a design, as plain JSON data."""
    if command == "simulate":
        courses = {season: course_of(assessment, season, days, series=True) for season in SEASONS}
        return {season: write_course(course, assessment, season) for season, course in courses.items()}
    if command == "forecast":
        return write_forecast(forecast(assessment))
    if command == "rehearse":
        return write_test_plan(plan_of_test(assessment))
    if command == "checks":
        missing = [{"id": id, "place": place} for id, place in never_made(assessment)]
        checks = [
            {"title": CATALOGUE[check.id].title, **write_check(check, about(check.place, assessment.design))}
            for check in closest_first([*assessment.checks, *forecast(assessment).checks])
        ]
        return {"checks": checks, "never_made": missing}
    return write_assessment(assessment)


if __name__ == "__main__":
    sys.exit(main())
