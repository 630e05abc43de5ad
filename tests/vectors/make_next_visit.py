"""What one more visit will find, by scipy: the predictive Student's t of a normal sample with a scaled inverse-chi-squared prior on its
variance (Gelman et al., Bayesian Data Analysis, third edition, 3.3). The rows with a prior of no visits are the textbook prediction interval.

    python make_next_visit.py > next_visit.csv
"""

import numpy
import scipy
from scipy.stats import t

dice = numpy.random.default_rng(21)
print(f"# scipy {scipy.__version__}, tests/vectors/make_next_visit.py")
print("values,usual_spread,usual_visits,coverage,low,high")
for row in range(60):
    n = int(dice.integers(1, 12))
    values = numpy.round(dice.normal(dice.uniform(-120, 300), dice.uniform(0.1, 8), n), 3)
    spread = round(float(dice.uniform(0.1, 5)), 3)
    visits = 0.0 if row % 3 == 0 and n > 1 else float(dice.integers(1, 9))
    coverage = float(dice.choice([0.8, 0.9, 0.95]))
    freedom = visits + n - 1
    squares = float(((values - values.mean()) ** 2).sum())
    scale = numpy.sqrt((visits * spread**2 + squares) / freedom * (1 + 1 / n))
    low, high = t.interval(coverage, freedom, loc=values.mean(), scale=scale)
    text = " ".join(repr(float(value)) for value in values)
    print(f"{text},{spread},{visits},{coverage},{float(low)!r},{float(high)!r}")
