"""Makes classical.csv and mixed.csv: textbook comparisons by scipy, and the Gaussian mixed model by statsmodels.

    pip install -r requirements-verdict.txt
    python make_verdict.py
"""

import csv
import warnings

import numpy
import scipy
import statsmodels
from scipy import stats
from statsmodels.regression.mixed_linear_model import MixedLM
from statsmodels.stats.multitest import multipletests

random = numpy.random.default_rng(20261201)


def text(values):
    return " ".join(repr(float(value)) for value in values)


def classical():
    with open("classical.csv", "w", newline="") as file:
        file.write(f"# scipy {scipy.__version__}, statsmodels {statsmodels.__version__}: made by make_verdict.py\n")
        out = csv.writer(file, lineterminator="\n")
        out.writerow(["a", "b", "hodges_lehmann", "mann_whitney", "bca_low", "bca_high", "chances", "holm"])
        for case in range(100):
            n, m = (int(random.integers(2, 12)), int(random.integers(2, 12)))
            if case % 3 == 0:
                n, m = n + 6, m + 6
            a = random.normal(5.0, 0.3, n)
            b = random.gamma(4.0, 1.2, m) if case % 2 else random.normal(5.2, 0.5, m)
            shift = numpy.median(numpy.subtract.outer(a, b))
            chance = stats.mannwhitneyu(a, b, method="exact").pvalue
            low = high = ""
            if min(n, m) >= 6:
                found = stats.bootstrap(
                    (a, b),
                    lambda x, y, axis: x.mean(axis=axis) - y.mean(axis=axis),
                    confidence_level=0.9,
                    method="BCa",
                    n_resamples=50_000,
                    random_state=random,
                ).confidence_interval
                low, high = repr(float(found.low)), repr(float(found.high))
            chances = random.beta(0.5, 2.0, int(random.integers(1, 9)))
            corrected = multipletests(chances, method="holm")[1]
            out.writerow([text(a), text(b), repr(float(shift)), repr(float(chance)), low, high, text(chances), text(corrected)])


def mixed():
    with open("mixed.csv", "w", newline="") as file:
        file.write(f"# statsmodels {statsmodels.__version__} MixedLM, REML: made by make_verdict.py\n")
        out = csv.writer(file, lineterminator="\n")
        out.writerow(
            ["setups", "sittings", "tests", "values", "effects", "spread_of_difference", "test", "within", "sitting"]
        )
        made = 0
        while made < 50:
            setups, sittings, tests = (int(random.integers(2, 5)), int(random.integers(4, 9)), int(random.integers(2, 5)))
            hour = random.normal(0, 0.3, sittings)
            cell = random.normal(0, 0.2, (sittings, setups))
            level = random.normal(4, 0.5, setups)
            chance = random.normal(0, 0.15, (sittings, setups, tests))
            values = level[None, :, None] + hour[:, None, None] + cell[:, :, None] + chance
            sitting, setup, _ = numpy.indices(values.shape)
            flat = values.ravel()
            fixed = (setup.ravel()[:, None] == numpy.arange(setups)[None, :]).astype(float)
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                try:
                    model = MixedLM(
                        flat,
                        fixed,
                        groups=sitting.ravel(),
                        exog_re=numpy.ones((flat.size, 1)),
                        exog_vc={
                            "cell": {
                                g: fixed[sitting.ravel() == g] for g in range(sittings)
                            }
                        },
                    )
                    fit = model.fit(reml=True, method="bfgs", gtol=1e-8)
                except numpy.linalg.LinAlgError:
                    continue
            if not fit.converged or fit.cov_re[0, 0] < 1e-3 or fit.vcomp[0] < 1e-3:
                continue
            covariance = fit.cov_params()[:setups, :setups]
            difference = numpy.sqrt(covariance[0, 0] + covariance[1, 1] - 2 * covariance[0, 1])
            out.writerow(
                [
                    setups,
                    sittings,
                    tests,
                    text(flat),
                    text(fit.fe_params),
                    repr(float(difference)),
                    repr(float(numpy.sqrt(fit.scale))),
                    repr(float(numpy.sqrt(fit.vcomp[0]))),
                    repr(float(numpy.sqrt(fit.cov_re[0, 0]))),
                ]
            )
            made += 1


classical()
mixed()
