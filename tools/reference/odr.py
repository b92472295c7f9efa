#!/usr/bin/env python3
"""Curves with uncertain x and y, fitted by scipy.odr (ODRPACK), as fixtures for the tests.

Written with Python 3.11, NumPy 2.4.6 and SciPy 1.17.1. Usage: tools/reference/odr.py > crates/core/tests/fixtures/odr.json
"""
import json
import warnings

import numpy as np

warnings.simplefilter("ignore", DeprecationWarning)
from scipy import odr  # noqa: E402

rng = np.random.default_rng(1987)

CURVES = {
    "exponential": (lambda b, x: b[0] * np.exp(b[1] * x), [1000.0, -0.4], np.linspace(0, 6, 13)),
    "exponential-offset": (lambda b, x: b[0] * np.exp(b[1] * x) + b[2], [20.0, -0.8, 5.0], np.linspace(0, 6, 15)),
    "power": (lambda b, x: b[0] * x ** b[1], [3.0, 1.7], np.linspace(0.5, 6, 12)),
    "quadratic": (lambda b, x: b[0] * x**2 + b[1] * x + b[2], [-4.9, 6.0, 1.0], np.linspace(-0.4, 1.6, 11)),
    "inverse": (lambda b, x: b[0] / x, [12.0], np.linspace(1, 6, 9)),
    "root": (lambda b, x: b[0] * np.sqrt(x), [2.0], np.linspace(0.5, 9, 10)),
    "sine": (lambda b, x: b[0] * np.sin(b[1] * x + b[2]) + b[3], [2.0, 3.0, 0.4, 1.0], np.linspace(0, 5, 25)),
    "line": (lambda b, x: b[0] * x + b[1], [2.5, 3.0], np.arange(2001.0, 2013.0)),
}

cases = []
for name, (curve, truth, x) in CURVES.items():
    for ux, uy in [(0.01, 0.02), (0.05, 0.01), (0.03, 0.05)]:
        for scale in [(1.0, 1.0), (1e-12, 1e6), (1e9, 1e-12)]:
            reach = x.max() - x.min()
            y = curve(truth, x)
            tall = y.max() - y.min()
            sx, sy = np.full(x.size, ux * reach), np.full(x.size, uy * tall)
            px, py = x + sx * rng.normal(size=x.size) * 0.5, y + sy * rng.normal(size=x.size) * 0.5
            if name in ("power", "inverse", "root"):
                px = np.abs(px)
            fit = odr.ODR(odr.RealData(px, py, sx=sx, sy=sy), odr.Model(curve), beta0=truth, maxit=2000, sstol=1e-14, partol=1e-14)
            out = fit.run()
            # Fitted where the numbers are of one size, and written down in other units.
            a, b = scale
            factors = {
                "exponential": [b, 1 / a], "exponential-offset": [b, 1 / a, b], "power": [b / a ** out.beta[1] if name == "power" else 1, 1],
                "quadratic": [b / a**2, b / a, b], "inverse": [b * a], "root": [b / a**0.5], "sine": [b, 1 / a, 1, b], "line": [b / a, b],
            }[name]
            if name == "power" and a != 1.0:
                continue
            cases.append({
                "model": name,
                "x": (px * a).tolist(), "y": (py * b).tolist(), "ux": ux * reach * a, "uy": uy * tall * b,
                "parameters": [p * f for p, f in zip(out.beta, factors)],
                # Not scaled by the residual variance.
                "u": [float(np.sqrt(c)) * abs(f) for c, f in zip(np.diag(out.cov_beta), factors)],
                "sum": float(out.sum_square),
            })
# A decay read late and early by half a day: the curve bends within the uncertainty of x.
t = np.arange(0.0, 12.0)
counts = 1000 * np.exp(-t / 4.0) + 5 * np.array([0.3, -1.1, 0.8, 0.2, -0.5, 1.3, -0.9, 0.1, 0.6, -0.4, -1.0, 0.7])
late = t + 0.5 * np.array([0.4, -0.7, 1.2, 0.1, -1.3, 0.6, -0.2, 0.9, -0.8, 0.3, -0.1, 0.5])
out = odr.ODR(odr.RealData(late, counts, sx=0.5, sy=5.0), odr.Model(CURVES["exponential"][0]), beta0=[1000, -0.25], maxit=2000, sstol=1e-14, partol=1e-14).run()
cases.append({
    "model": "exponential", "x": late.tolist(), "y": counts.tolist(), "ux": 0.5, "uy": 5.0, "parameters": out.beta.tolist(),
    "u": np.sqrt(np.diag(out.cov_beta)).tolist(), "sum": float(out.sum_square),
})
print(json.dumps({"made_by": "scipy.odr, SciPy 1.17.1", "cases": cases}))
