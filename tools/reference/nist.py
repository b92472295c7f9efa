#!/usr/bin/env python3
"""All sets of nonlinear regression of the NIST Statistical Reference Datasets, as a fixture.

Reads the files of NIST (https://www.itl.nist.gov/div898/strd/nls/nls_main.shtml) as the source archive of lmfit 1.3.2 carries them, and
checks each: the certified residual standard deviation has to follow from data, formula and certified parameters. Longley's set is that of
statsmodels 0.15.0 (`statsmodels.datasets.longley`), with the certified values that NIST gives for it.

Usage: pip download --no-deps --no-binary :all: lmfit==1.3.2; tools/reference/nist.py lmfit-1.3.2.tar.gz > crates/core/tests/fixtures/nist.json
Written with Python 3.11, NumPy 2.4.6, statsmodels 0.15.0.
"""
import json
import re
import sys
import tarfile

import numpy as np
import statsmodels.api as sm

GAUSS = "b1*exp(-b2*x) + b3*exp(-(x - b4)^2/b5^2) + b6*exp(-(x - b7)^2/b8^2)"
LANCZOS = "b1*exp(-b2*x) + b3*exp(-b4*x) + b5*exp(-b6*x)"
CHWIRUT = "exp(-b1*x)/(b2 + b3*x)"
WAVES = "b1 + b2*cos(2*pi*x/12) + b3*sin(2*pi*x/12) + b5*cos(2*pi*x/b4) + b6*sin(2*pi*x/b4) + b8*cos(2*pi*x/b7) + b9*sin(2*pi*x/b7)"
FORMULAS = {
    "Bennett5": "b1*(b2 + x)^(-1/b3)",
    "BoxBOD": "b1*(1 - exp(-b2*x))",
    "Chwirut1": CHWIRUT,
    "Chwirut2": CHWIRUT,
    "DanWood": "b1*x^b2",
    "ENSO": WAVES,
    "Eckerle4": "b1/b2*exp(-0.5*((x - b3)/b2)^2)",
    "Gauss1": GAUSS,
    "Gauss2": GAUSS,
    "Gauss3": GAUSS,
    "Hahn1": "(b1 + b2*x + b3*x^2 + b4*x^3)/(1 + b5*x + b6*x^2 + b7*x^3)",
    "Kirby2": "(b1 + b2*x + b3*x^2)/(1 + b4*x + b5*x^2)",
    "Lanczos1": LANCZOS,
    "Lanczos2": LANCZOS,
    "Lanczos3": LANCZOS,
    "MGH09": "b1*(x^2 + x*b2)/(x^2 + x*b3 + b4)",
    "MGH10": "b1*exp(b2/(x + b3))",
    "MGH17": "b1 + b2*exp(-x*b4) + b3*exp(-x*b5)",
    "Misra1a": "b1*(1 - exp(-b2*x))",
    "Misra1b": "b1*(1 - (1 + b2*x/2)^(-2))",
    "Misra1c": "b1*(1 - (1 + 2*b2*x)^(-0.5))",
    "Misra1d": "b1*b2*x/(1 + b2*x)",
    "Nelson": "b1 - b2*x*exp(-b3*z)",
    "Rat42": "b1/(1 + exp(b2 - b3*x))",
    "Rat43": "b1/(1 + exp(b2 - b3*x))^(1/b4)",
    "Roszman1": "b1 - b2*x - atan(b3/(x - b4))/pi",
    "Thurber": "(b1 + b2*x + b3*x^2 + b4*x^3)/(1 + b5*x + b6*x^2 + b7*x^3)",
}


def read(name, text):
    starts, certified = [{}, {}], {}
    for parameter, first, second, value, sd in re.findall(r"^\s*(b\d) =\s+(\S+)\s+(\S+)\s+(\S+)\s+(\S+)\s*$", text, re.M):
        starts[0][parameter], starts[1][parameter] = float(first), float(second)
        certified[parameter] = [float(value), float(sd)]
    sd = float(re.search(r"Residual Standard Deviation:\s+(\S+)", text).group(1))
    lines = [list(map(float, line.split())) for line in text.split("Data:")[-1].splitlines()[1:] if line.strip()]
    y, xs = [line[0] for line in lines], list(zip(*[line[1:] for line in lines]))
    if name == "Nelson":
        y = [float(np.log(v)) for v in y]
    known = {p: v for p, (v, _) in certified.items()} | {"x": np.array(xs[0]), "pi": np.pi, "exp": np.exp, "atan": np.arctan, "cos": np.cos, "sin": np.sin}
    if len(xs) > 1:
        known["z"] = np.array(xs[1])
    model = eval(FORMULAS[name].replace("^", "**"), known)  # The formulas above.
    found = float(np.sqrt(np.sum((np.array(y) - model) ** 2) / (len(y) - len(certified))))
    if abs(found / sd - 1) > 1e-8 and name != "Lanczos1":
        raise SystemExit(f"{name}: {found} against {sd}")
    out = {"formula": FORMULAS[name], "y": y, "x": list(xs[0]), "certified": certified, "residual_sd": sd, "starts": starts}
    return out | ({"z": list(xs[1])} if len(xs) > 1 else {})


sets = {}
with tarfile.open(sys.argv[1]) as archive:
    for member in archive:
        name = re.search(r"NIST_STRD/(\w+)\.dat$", member.name)
        if name and name.group(1) in FORMULAS:
            sets[name.group(1)] = read(name.group(1), archive.extractfile(member).read().decode())
assert sorted(sets) == sorted(FORMULAS)
longley = sm.datasets.longley.load_pandas()
linear = {
    "Longley": {
        "y": longley.endog.tolist(), "x": longley.exog.to_numpy().T.tolist(),
        # NIST StRD, linear regression, Longley; set down from memory and checked by statsmodels to 9 digits.
        "certified": [[-3482258.63459582, 890420.383607373], [15.0618722713733, 84.9149257747669], [-0.358191792925910e-01, 0.334910077722432e-01],
                      [-2.02022980381683, 0.488399681651699], [-1.03322686717359, 0.214274163161675], [-0.511041056535807e-01, 0.226073200069370],
                      [1829.15146461355, 455.478499142212]],
        "residual_sd": 304.854073561965,
    },
}
fitted = sm.OLS(longley.endog, sm.add_constant(longley.exog)).fit()
for (value, sd), v, s in zip(linear["Longley"]["certified"], fitted.params, fitted.bse):
    assert abs(v / value - 1) < 1e-9 and abs(s / sd - 1) < 1e-9, (value, v)
lines = [f' "{name}": ' + json.dumps(part) for name, part in sorted(sets.items())]
print('{"nonlinear": {\n' + ",\n".join(lines) + '\n},\n"linear": {\n' + ",\n".join(f' "{n}": ' + json.dumps(p) for n, p in linear.items()) + "\n}}")
