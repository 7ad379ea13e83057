#!/usr/bin/env python3
"""Times the estimate of partials in bands against the same estimate in NumPy and SciPy, one core each, in one run.

The sound: simulated strikes of a floor tom. In Python stands what docs/METHOD.md describes under Partials, band by band: decimation,
13 bands brought down to low rates, poles by ESPRIT with the same order rule, joint least squares with an analytic Jacobian from 180 ms and
from early on, unsure tones left out one by one, and once more with a bend of pitch. The same of the program alone is timed by the example
partials_in_bands; beside it stands what `soft-ember measure` takes for everything: also the fit to the whole sound, falls of pitch, slopes,
buzz, attack, faults, finding the strike.

Needs NumPy and SciPy, and `cargo build --release -p ember-server` and `cargo build --release -p ember-core --example partials_in_bands`
before. Prints the times a strike, their ratio, and the loudest partials of both.
"""

import json
import os
import subprocess
import sys
import tempfile
import time

ONE_CORE = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "MKL_NUM_THREADS": "1", "RAYON_NUM_THREADS": "1"}
os.environ.update(ONE_CORE)

import numpy as np  # noqa: E402  (after the number of threads is set)
from scipy.io import wavfile  # noqa: E402
from scipy.optimize import least_squares  # noqa: E402
from scipy.signal import firwin, kaiserord, oaconvolve  # noqa: E402

HERE = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
BUILT = f"{os.environ.get('CARGO_TARGET_DIR', HERE + '/target')}/release"
PROGRAM, IN_BANDS = f"{BUILT}/soft-ember", f"{BUILT}/examples/partials_in_bands"
STRIKES = 40
LOW, HIGH, BAND = 30.0, 1200.0, 90.0
SURE, SETTLED_S, LONGEST_S, LONGEST_EARLY_S = 6.0, 0.18, 0.9, 0.6


def filtered(signal, low, high, rate, factor, attenuation=80):
    """Low-pass from `low` to `high` Hz, every `factor`-th sample."""
    taps, beta = kaiserord(attenuation, (high - low) / (0.5 * rate))
    kernel = firwin(taps | 1, 0.5 * (low + high), window=("kaiser", beta), fs=rate)
    return oaconvolve(signal, kernel, mode="same")[::factor]


def poles(signal, most=6):
    """ESPRIT on the Hankel covariance; the order is the number of eigenvalues clear of the noise's."""
    rows = min(len(signal) // 3, 24)
    if rows < 4:
        return []
    hankel = np.lib.stride_tricks.sliding_window_view(signal, rows).T
    values, vectors = np.linalg.eigh(hankel @ hankel.conj().T)
    values, vectors = values[::-1], vectors[:, ::-1]
    first = int(0.5625 * rows)
    noise = np.maximum(values[first : max(int(0.71875 * rows), first + 1)], 0).mean()
    spread = (1 + np.sqrt(rows / hankel.shape[1])) ** 2
    count = min(int(np.argmin(np.append(values > max(3 * spread * noise, 1e-9 * values[0]), False))), most, rows // 2)
    if count == 0:
        return []
    space = vectors[:, :count]
    return np.linalg.eigvals(np.linalg.lstsq(space[:-1], space[1:], rcond=None)[0])


def fitted(signal, rate, found, bend_rate, bent):
    """Joint least squares from `found` (hz, decay); each with amplitude and, where `bent`, an excess of pitch. Tones and their doubt."""
    t = np.arange(len(signal)) / rate
    bend_time = -np.expm1(-bend_rate * t) / bend_rate
    each = 5 if bent else 4

    def courses(p):
        q = p.reshape(-1, each)
        turns = 2j * np.pi * (np.outer(q[:, 0], t) + (np.outer(q[:, 4], bend_time) if bent else 0))
        return q, np.exp(-np.outer(np.clip(q[:, 1], -20, 1000), t) + turns)

    def left(p):
        q, c = courses(p)
        r = (q[:, 2] + 1j * q[:, 3]) @ c - signal
        return np.concatenate([r.real, r.imag])

    def jacobian(p):
        q, c = courses(p)
        sound = (q[:, 2] + 1j * q[:, 3])[:, None] * c
        parts = [2j * np.pi * t * sound, -t * sound, c, 1j * c] + ([2j * np.pi * bend_time * sound] if bent else [])
        j = np.stack(parts, axis=1).reshape(len(p), -1).T
        return np.concatenate([j.real, j.imag])

    while len(found):
        base = np.exp(np.outer(t, [-d + 2j * np.pi * hz for hz, d in found]))
        a = np.linalg.lstsq(base, signal, rcond=None)[0]
        start = np.concatenate([[hz, d, z.real, z.imag] + ([0.0] if bent else []) for (hz, d), z in zip(found, a)])
        if 2 * len(signal) <= len(start):
            return []
        result = least_squares(left, start, jac=jacobian, method="lm", xtol=1e-6, ftol=1e-5)
        noise = 2 * result.cost / (2 * len(signal) - len(start))
        try:
            sd = np.sqrt(np.maximum(np.diag(np.linalg.inv(result.jac.T @ result.jac)) * noise, 0)).reshape(-1, each)
        except np.linalg.LinAlgError:
            sd = np.full((len(found), each), np.inf)
        q = result.x.reshape(-1, each)
        size = np.hypot(q[:, 2], q[:, 3])
        unsure = (size <= SURE * np.hypot(sd[:, 2], sd[:, 3])) | (q[:, 1] > 230) | (q[:, 1] < -0.6)
        if not unsure.any():
            return [(hz, d, s, dd) for (hz, d), s, dd in zip(q[:, :2], size, sd[:, 1])]
        weakest = min(np.flatnonzero(unsure), key=lambda i: size[i])
        found = [(hz, d) for i, (hz, d) in enumerate(q[:, :2]) if i != weakest]
    return []


def partials(strike, rate, onset_s):
    """(hz, T60, level) of one strike."""
    factor = int(rate // 3200)
    slow_rate = rate / factor
    slow = filtered(strike, 1.08 * HIGH, slow_rate - 1.15 * HIGH, rate, factor)
    band_factor = round(slow_rate / 320)
    band_rate = slow_rate / band_factor
    t = np.arange(len(slow)) / slow_rate
    found = []
    for index in range(13):
        centre = LOW + BAND * (index + 0.5)
        band = filtered(slow * np.exp(-2j * np.pi * centre * t), 58, 140, slow_rate, band_factor, 70)
        for from_s, longest_s in ((SETTLED_S, LONGEST_S), (0.04, LONGEST_EARLY_S)):
            start = int(np.ceil((onset_s + from_s) * band_rate))
            part = band[start : start + int(longest_s * band_rate)]
            z = [p for p in poles(part) if abs(p) > 1e-3]
            tones = fitted(part, band_rate, [(np.angle(p) * band_rate / (2 * np.pi), -np.log(abs(p)) * band_rate) for p in z], 20, False)
            bent = fitted(part, band_rate, [tone[:2] for tone in tones], 20, True)
            for hz, decay, size, sd in bent or tones:
                if abs(hz) <= 0.55 * BAND and sd < 0.6 * decay:
                    found.append((hz + centre, 6.908 / decay, size * np.exp(decay * from_s)))
    return found


def main():
    with tempfile.TemporaryDirectory() as folder:
        paths = {}
        for count in (1, STRIKES):
            paths[count] = f"{folder}/{count}.wav"
            # What starting and the first strike take is the same for both files.
            subprocess.run([PROGRAM, "simulate", "--drum", "floor-tom", "--strikes", str(count), "--out", paths[count]], check=True)
        took = {}
        for count, path in paths.items():
            times = []
            for _ in range(3):
                began = time.perf_counter()
                out = subprocess.run([PROGRAM, "measure", "--json", path], capture_output=True, check=True, env={**os.environ}).stdout
                times.append(time.perf_counter() - began)
            took[count] = min(times)
        in_bands = float(subprocess.run([IN_BANDS, paths[STRIKES]], capture_output=True, check=True).stdout) / 1000
        ours = (took[STRIKES] - took[1]) / (STRIKES - 1)
        measured = json.loads(out)
        rate, sound = wavfile.read(paths[STRIKES])
        sound = sound / np.iinfo(sound.dtype).max
    heard = measured["files"][0]
    onsets = [strike["onset_s"] for strike in heard["strikes"]]
    times, found = [], []
    for onset, following in list(zip(onsets, onsets[1:]))[:8]:
        strike = sound[int((onset - 0.05) * rate) : int((following - 0.05) * rate)]
        began = time.perf_counter()
        found.append(partials(strike, rate, 0.05))
        times.append(time.perf_counter() - began)
    theirs = float(np.median(times))
    print(f"partials in bands {1000 * in_bands:.1f} ms a strike, NumPy and SciPy {1000 * theirs:.0f} ms: {theirs / in_bands:.0f} times, one core each")
    print(f"everything that is measured of a strike: {1000 * ours:.1f} ms")
    loudest = sorted(heard["strikes"][0]["partials"], key=lambda p: -p["level_db"])[:4]
    for partial in sorted(loudest, key=lambda p: p["hz"]):
        near = [p for p in found[0] if abs(p[0] - partial["hz"]) < 1.5]
        print(f"  {partial['hz']:.1f} Hz: T60 {partial['t60_s']} s; Python {[f'{p[1]:.3f}' for p in near]}")


if __name__ == "__main__":
    sys.exit(main())
