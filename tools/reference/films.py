#!/usr/bin/env python3
"""Reference values for films: derivatives by scipy.signal.savgol_filter, projective maps, template matches and strobe pictures by OpenCV.

Usage: tools/reference/films.py   (needs numpy, scipy and opencv-python-headless; made with the versions named in the files)
"""
import json
import pathlib
import subprocess
import tempfile

import cv2
import numpy as np
import scipy
from scipy.signal import savgol_filter

ROOT = pathlib.Path(__file__).resolve().parents[2]

rng = np.random.default_rng(11)
every = 1 / 60
t = np.arange(24) * every
x = np.round(0.3 + 4.6 * t - 4.9 * t**2 + rng.normal(0, 0.003, t.size), 4)
cases = []
for rows in (3, 5, 7, 11):
    cases.append({
        "rows": rows,
        "rate": savgol_filter(x, rows, 2, deriv=1, delta=every, mode="interp").tolist(),
        "rate2": savgol_filter(x, rows, 2, deriv=2, delta=every, mode="interp").tolist(),
    })
out = ROOT / "crates/core/tests/fixtures/savgol.json"
out.write_text(json.dumps({"made_with": f"SciPy {scipy.__version__}, NumPy {np.__version__}", "every": every, "x": x.tolist(), "cases": cases}, indent=1) + "\n")

planes = []
for case in range(12):
    width, height = (round(float(v), 3) for v in rng.uniform(0.5, 6, 2))
    square = np.array([[150, 300], [480, 300], [480, 80], [150, 80]], np.float32)
    corners = np.round(square + rng.uniform(-70, 70, (4, 2)), 1).astype(np.float32)
    flat = np.array([[0, 0], [width, 0], [width, -height], [0, -height]], np.float32)
    to = cv2.getPerspectiveTransform(corners, flat)
    at = rng.uniform([120, 60], [500, 320], (6, 2)).round(1)
    seen = cv2.perspectiveTransform(at[None].astype(np.float64), to)[0]
    planes.append({"corners": corners.astype(float).round(1).tolist(), "sides": [width, height], "at": at.tolist(), "on": seen.tolist()})
out = ROOT / "crates/core/tests/fixtures/planes.json"
out.write_text(json.dumps({"made_with": f"opencv-python-headless {cv2.__version__}", "planes": planes}, indent=1) + "\n")

with tempfile.TemporaryDirectory() as folder:
    subprocess.run(["cargo", "run", "--quiet", "--", "film", "render", "tower-yard", "--out", folder], cwd=ROOT, check=True, stdout=subprocess.DEVNULL)
    files = sorted(pathlib.Path(folder).glob("*.jpg"))
    grey = [cv2.imread(str(f), cv2.IMREAD_GRAYSCALE) for f in files]
    truth = [line.split(",") for line in (pathlib.Path(folder) / "truth.csv").read_text().splitlines()[1:]]
    matches = []
    side, places = 29, 41
    for first in (8, 20, 33, 47):
        cx, cy = (int(float(v)) - side // 2 for v in truth[first][3:5])
        template = grey[first][cy:cy + side, cx:cx + side]
        # Where the next frame's search would begin.
        left, top = cx - places // 2 + 4, cy - places // 2 + 1
        region = grey[first + 1][top:top + places + side - 1, left:left + places + side - 1]
        _, score, _, (dx, dy) = cv2.minMaxLoc(cv2.matchTemplate(region, template, cv2.TM_CCOEFF_NORMED))
        matches.append({"frame": first, "template": [cx, cy], "region": [left, top], "best": [left + dx, top + dy], "score": score})
    colour = [cv2.cvtColor(cv2.imread(str(f)), cv2.COLOR_BGR2RGB) for f in files[::8]]
    strobes = {}
    for name, reduce in (("darken", np.minimum.reduce), ("lighten", np.maximum.reduce)):
        picture = reduce(colour)
        places_seen = [[int(float(truth[f][3])), int(float(truth[f][4]))] for f in (0, 16, 32)] + [[5, 5], [320, 180], [600, 300]]
        strobes[name] = {"mean": picture.mean(axis=(0, 1)).tolist(), "pixels": [[p, picture[p[1], p[0]].tolist()] for p in places_seen]}
    out = ROOT / "crates/film/tests/fixtures/opencv.json"
    out.parent.mkdir(exist_ok=True)
    out.write_text(json.dumps({"made_with": f"opencv-python-headless {cv2.__version__}", "side": side, "places": places, "matches": matches, "strobe_every": 8, "strobes": strobes}, indent=1) + "\n")
