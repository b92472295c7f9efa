#!/usr/bin/env python3
"""Lines and parabolas through differences of neighbouring readings, fitted by statsmodels' GLS with their covariance, as a fixture.

Positions x with a standard uncertainty u each, differences d_i = x_i - x_(i-1) against the number of the row less one half; their covariance is
u^2 times 2 on the diagonal and -1 beside it. Covariance of the parameters as stated, not scaled by chi^2.

Written with Python 3.11, NumPy 2.4.6 and statsmodels 0.15.0. Usage: tools/reference/gls.py > crates/core/tests/fixtures/gls.json
"""
import json

import numpy as np
import statsmodels
import statsmodels.api as sm

cases = []
for seed, (n, u, degree) in enumerate([(5, 0.02, 1), (12, 0.02, 1), (40, 0.005, 1), (30, 0.05, 2)]):
    rng = np.random.default_rng(seed)
    k = np.arange(n)
    x = np.round(0.3 * k + 0.11 * k**2 + (0.002 * k**3 if degree == 2 else 0) + u * rng.standard_normal(n), 6)
    d, at = np.diff(x), k[1:] + 0.5
    covariance = u**2 * (2 * np.eye(n - 1) - np.eye(n - 1, k=1) - np.eye(n - 1, k=-1))
    fit = sm.GLS(d, np.vander(at, degree + 1), sigma=covariance).fit()
    cases.append({"x": x.tolist(), "u": u, "degree": degree, "parameters": fit.params.tolist(),
                  "deviations": np.sqrt(np.diag(fit.normalized_cov_params)).tolist()})
lines = ",\n ".join(map(json.dumps, cases))
print(f'{{"made by": "tools/reference/gls.py, statsmodels {statsmodels.__version__}, NumPy {np.__version__}", "cases": [\n {lines}\n]}}')
