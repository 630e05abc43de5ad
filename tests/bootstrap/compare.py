"""Times the reference library's BCa bootstrap of the case that `cargo bench --bench verdict` times, and prints the ratio.

    pip install -r ../vectors/requirements-verdict.txt
    python compare.py <ms that the bench printed>
"""

import statistics
import sys
import time

import numpy
from scipy import stats


def main() -> None:
    here = numpy.array([4.3 + 0.1 * (at * 7 % 10) for at in range(10)])
    there = here - 0.3
    times = []
    for _ in range(7):
        begun = time.perf_counter()
        stats.bootstrap(
            (here, there),
            lambda a, b, axis: a.mean(axis=axis) - b.mean(axis=axis),
            confidence_level=0.9,
            method="BCa",
            n_resamples=9999,
            vectorized=True,
        )
        times.append(1e3 * (time.perf_counter() - begun))
    reference = statistics.median(times)
    own = float(sys.argv[1])
    print(f"reference {reference:.1f} ms, own {own:.2f} ms: {reference / own:.1f} times as fast, target 10")


if __name__ == "__main__":
    main()
