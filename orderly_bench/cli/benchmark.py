"""``benchmark``: medians of what people wait for."""

from __future__ import annotations

import argparse
import os
import resource
import subprocess
import sys
import tempfile
import time
from datetime import datetime, timedelta
from pathlib import Path
from statistics import median

import numpy as np

from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.lenses import look_through
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.rehearse.blank_trial import BlankTrial
from orderly_bench.core.rehearse.chance import chances
from orderly_bench.core.rehearse.family import family_of
from orderly_bench.core.rehearse.outcomes import Guess
from orderly_bench.core.tend.by_day import by_day
from orderly_bench.core.tend.conditions import conditions, in_order
from orderly_bench.figures import season
from orderly_bench.formats.log_csv import read_log


def made_up(arms: int, blocks: int, units: int, per_unit: int, rng: np.random.Generator) -> Observations:
    """A trial with rates rising over the arms; ``units`` per arm and block."""
    rows = []
    for a in range(arms):
        for b in range(blocks):
            for u in range(units):
                unit = f"u{a}-{b}-{u}" if per_unit > 1 else None
                rows += [
                    Row((f"arm {a}",), float(rng.random() < 0.3 + 0.4 * a / arms), f"b{b}", unit=unit)
                    for _ in range(per_unit)
                ]
    return arrange(("medium",), rows)


def _median_ms(observations: Observations, repeats: int) -> float:
    times = []
    for _ in range(repeats):
        fresh = Observations(observations.factors, observations.arms, observations.blocks, observations.rows)
        start = time.perf_counter()
        look_through(analyse(fresh, Settings(margin=0.15)))
        times.append(1000 * (time.perf_counter() - start))
    return median(times)


def _many_files(count: int) -> float:
    """Seconds for ``count`` analyses of 60 rows in one headless call, start-up included."""
    rng = np.random.default_rng(2)
    with tempfile.TemporaryDirectory() as folder:
        files = []
        for i in range(count):
            rows = "".join(
                f"{arm},{int(rng.random() < rate)}\n"
                for arm, rate in (("a", 0.4), ("b", 0.6), ("c", 0.7))
                for _ in range(20)
            )
            file = Path(folder) / f"{i}.csv"
            file.write_text("medium,rooted\n" + rows)
            files.append(str(file))
        start = time.perf_counter()
        command = [
            sys.executable,
            "-m",
            "orderly_bench.cli",
            "analyse",
            *files,
            "--factors",
            "medium",
            "--margin",
            "0.15",
            "--json",
        ]
        subprocess.run(command, stdout=subprocess.DEVNULL, check=True)
        return time.perf_counter() - start


def _simulated_seconds() -> tuple[float, float]:
    """Seconds for 2,000 simulated 2 x 3 trials in 4 blocks of 24 cells with 5 cuttings, and the error of the share found."""
    rows, arm = [], []
    for block in range(4):
        for a, b in ((a, b) for a in range(2) for b in range(3)):
            rows += [Row((f"medium {a}", f"hormone {b}"), 0.0, f"b{block}")] * 5
            arm += [3 * a + b] * 5
    stage = BlankTrial(arrange(("medium", "hormone"), rows), np.array(arm), np.arange(len(rows)), tuple("ABCDEF"))
    start = time.perf_counter()
    family = family_of(stage.observations, True, None)
    guess = Guess((0.4, 0.4, 0.4, 0.6, 0.6, 0.6))
    found = chances(stage, family, guess, 0.05, 2_000, np.random.default_rng(3))
    return time.perf_counter() - start, found[0].mc_error


def _minutes(rows: int = 100_000) -> str:
    """A logger's file of a reading a minute, without its first line."""
    start, minute = datetime(2026, 3, 1), timedelta(minutes=1)
    return "".join(
        f"{start + n * minute:%Y-%m-%d %H:%M},{18 + n % 61 / 10:.1f},{70 + n % 20},{n % 1440 / 7:.0f}\n"
        for n in range(rows)
    )


def _logger(cells: str) -> tuple[float, float]:
    """Seconds to read a logger's rows and sum them up by day, and milliseconds to draw their season from that."""
    began = time.perf_counter()
    readings = in_order(read_log(("time,air_c,rh,ppfd\n" + cells).encode()))
    conditions(readings, 18, 24)
    days = by_day(readings, 18, 24)
    seconds = time.perf_counter() - began
    air = [(one.day, one.low, one.high) for one in days if one.low is not None and one.high is not None]
    light = [season.Line("bench", "", [(one.day, one.light) for one in days if one.light is not None])]
    first, last = days[0].day, days[-1].day
    began = time.perf_counter()
    season.figure(season.Season(first, last, last, air=air, band=(18.0, 24.0), light=light))
    return seconds, 1000 * (time.perf_counter() - began)


def run(arguments: argparse.Namespace) -> int:
    """Print the medians with their targets."""
    rng = np.random.default_rng(1)
    first = made_up(6, 4, 20, 1, rng)
    second = made_up(12, 6, 2, 5, rng)
    _median_ms(first, 1)  # loads the libraries
    print(f"6 arms x 4 blocks x 20 single cuttings: {_median_ms(first, arguments.repeats):.0f} ms (target 150 ms)")
    print(f"12 arms x 6 blocks x 2 pots x 5 cuttings: {_median_ms(second, arguments.repeats):.0f} ms (target 1000 ms)")
    print(f"300 analyses of 60 rows in one call: {_many_files(300):.1f} s (target 8 s)")
    seconds, error = _simulated_seconds()
    print(
        f"2,000 simulated 2 x 3 trials in 4 blocks, 999 draws: {seconds:.1f} s (target 3 s), error {100 * error:.1f} points"
    )
    rows = _minutes()
    seconds, drawn = _logger(rows)
    print(f"100,000 rows of a logger read and summed up by day: {seconds:.1f} s")
    print(f"their season drawn: {drawn:.0f} ms (target 300 ms)")
    url = os.environ.get("ORDERLY_BENCH_TEST_URL")
    if url:
        from orderly_bench.cli.bench_saves import bulk_load_seconds, p95_and_design_ms

        loaded = bulk_load_seconds(url, rows)
        print(
            f"the database's own load of those rows: {loaded:.2f} s, so they took {seconds / loaded:.1f} times that (target 5)"
        )
        saves, design = p95_and_design_ms(url)
        print(f"saving a score of 600 units, 95 of 100 saves within: {saves:.0f} ms (target 60 ms)")
        print(f"Design of 12 arms and 600 units: {design:.0f} ms (target 300 ms)")
    print(f"memory at most: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    return 0
