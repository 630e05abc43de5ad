"""Reference values for band trials: the power of a plan's length, and the additive two-way layout.

Run with Python 3.11 and requirements-trials.txt; writes power.csv and blocks.csv beside itself.
"""

import csv
import pathlib

import numpy as np
import scipy
import statsmodels
import statsmodels.api as sm
from scipy import stats

HERE = pathlib.Path(__file__).parent
SIMULATIONS = 20_000


def power(choices: int, blocks: int, difference: float, scatter: float, rng: np.random.Generator) -> float:
    """Share of simulated randomised blocks whose best choice is found best, and better at 5 % two-sided than the next one.

    All other choices are alike, the hardest case. The interval is Student's, on the residual of the additive layout.
    """
    effects = np.zeros(choices)
    effects[0] = np.log1p(difference)
    values = rng.normal(0.0, scatter, (SIMULATIONS, choices, blocks)) + effects[:, None]
    means = values.mean(axis=2)
    residual = values - means[:, :, None] - values.mean(axis=1)[:, None, :] + values.mean(axis=(1, 2))[:, None, None]
    freedom = (choices - 1) * (blocks - 1)
    spread = np.sqrt((residual**2).sum(axis=(1, 2)) / freedom)
    margin = means[:, 0] - means[:, 1:].max(axis=1)
    return float((margin > stats.t.ppf(0.975, freedom) * spread * np.sqrt(2 / blocks)).mean())


def powers() -> None:
    rng = np.random.default_rng(20261130)
    with open(HERE / "power.csv", "w", newline="") as file:
        file.write(f"# power by simulation, {SIMULATIONS} rounds; scipy {scipy.__version__}, numpy {np.__version__}\n")
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["choices", "blocks", "difference", "scatter", "power"])
        for choices in (2, 3, 4, 6, 8):
            for difference in (0.1, 0.2, 0.5, 1.0):
                for scatter in (0.1, 0.17, 0.35):
                    for count in (2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 25, 30, 40, 60):
                        found = power(choices, count, difference, scatter, rng)
                        writer.writerow([choices, count, difference, scatter, round(found, 4)])
                        if found > 0.97:
                            break


def blocks() -> None:
    rng = np.random.default_rng(7)
    with open(HERE / "blocks.csv", "w", newline="") as file:
        file.write(f"# ordinary least squares of value ~ treatment + block; statsmodels {statsmodels.__version__}\n")
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["values", "difference", "half_95", "spread"])
        for treatments, count, gaps in ((2, 4, 0), (3, 5, 0), (4, 6, 3), (5, 8, 6)):
            rows = [(t, b) for b in range(count) for t in range(treatments)]
            # Gaps in later blocks only: a choice that was dropped.
            for gap in range(gaps):
                rows.remove((treatments - 1 - gap % 2, count - 1 - gap // 2))
            y = np.array([0.1 * t - 0.3 * b + rng.normal(0, 0.2) for t, b in rows])
            x = np.zeros((len(rows), treatments + count - 1))
            for i, (t, b) in enumerate(rows):
                x[i, t] = 1
                if b:
                    x[i, treatments + b - 1] = 1
            fit = sm.OLS(y, x).fit()
            contrast = np.zeros(x.shape[1])
            contrast[0], contrast[treatments - 1] = -1, 1
            test = fit.t_test(contrast)
            low, high = test.conf_int(0.05)[0]
            text = " ".join(f"{t}:{b}:{v!r}" for (t, b), v in zip(rows, y.tolist()))
            writer.writerow([text, repr(float(test.effect[0])), repr(float((high - low) / 2)), repr(float(fit.scale**0.5))])


powers()
blocks()
