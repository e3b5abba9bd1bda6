"""The benchmark is not run by the tests, but it must be possible to start it."""

import runpy
from pathlib import Path

BENCH = Path(__file__).parents[1] / "bench" / "bench.py"


def test_everything_that_the_benchmark_measures_is_there() -> None:
    names = runpy.run_path(str(BENCH))
    assert {"main", "bench_cold", "bench_core", "bench_circuit", "bench_browser"} <= set(names)
