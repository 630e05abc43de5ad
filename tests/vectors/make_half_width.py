"""Half the width of the interval of how far two visited places lie apart, by scipy: Student's interval with pooled variance, whose variance
has a scaled inverse-chi-squared prior (Gelman et al., Bayesian Data Analysis, third edition, 3.3). The rows with a prior of no visits are
the textbook interval, taken from scipy.stats.ttest_ind.

    python make_half_width.py > half_width.csv
"""

import numpy
import scipy
from scipy.stats import t, ttest_ind

dice = numpy.random.default_rng(22)
print(f"# scipy {scipy.__version__}, tests/vectors/make_half_width.py")
print("here,there,usual_spread,usual_visits,coverage,half")
for row in range(60):
    textbook = row % 3 == 0
    least = 2 if textbook else 1
    here, there = (
        numpy.round(dice.normal(dice.uniform(-120, 40), dice.uniform(0.1, 8), int(dice.integers(least, 9))), 3)
        for _ in range(2)
    )
    spread = round(float(dice.uniform(0.1, 5)), 3)
    visits = 0.0 if textbook else float(dice.integers(1, 9))
    coverage = float(dice.choice([0.8, 0.9, 0.95]))
    if textbook:
        interval = ttest_ind(here, there, equal_var=True).confidence_interval(coverage)
        half = (interval.high - interval.low) / 2
    else:
        freedom = visits + len(here) + len(there) - 2
        squares = sum(((values - values.mean()) ** 2).sum() for values in (here, there))
        scale = numpy.sqrt((visits * spread**2 + squares) / freedom * (1 / len(here) + 1 / len(there)))
        half = t.ppf(0.5 + coverage / 2, freedom) * scale
    lists = ",".join(" ".join(repr(float(value)) for value in values) for values in (here, there))
    print(f"{lists},{spread},{visits},{coverage},{float(half)!r}")
