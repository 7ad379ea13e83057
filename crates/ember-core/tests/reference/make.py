"""Makes the sounds and numbers that `against_reference_library.rs` holds the core against.

    pip install pyroomacoustics==0.10.1 scipy numpy
    soft-ember simulate --drum tom --strikes 1 --seed 5 --out /tmp/tom.wav
    python make.py /tmp/tom.wav

Numbers: pyroomacoustics.experimental.measure_rt60, an independent implementation of Schroeder's backward integration.
"""

import json
import pathlib
import sys

import numpy as np
from pyroomacoustics.experimental import measure_rt60
from scipy.io import wavfile
from scipy.signal import resample_poly

HERE = pathlib.Path(__file__).parent
RATE = 16_000


def kept(name, sound):
    """Writes `sound` (from the hit on) and returns what the reference library makes of exactly those samples."""
    whole = np.round(np.clip(sound, -1, 1) * 32767).astype(np.int16)
    wavfile.write(HERE / f"{name}.wav", RATE, whole)
    samples = whole / 32768.0
    return {f"t{db}_s": float(measure_rt60(samples, fs=RATE, decay_db=db)) for db in (20, 30)}


def noise_decay(t60, seed, length=1.0):
    random = np.random.default_rng(seed)
    t = np.arange(int(length * RATE)) / RATE
    return 0.12 * random.standard_normal(t.size) * 10 ** (-3 * t / t60) + 3e-5 * random.standard_normal(t.size)


rate, tom = wavfile.read(sys.argv[1])
tom = tom[:] / np.iinfo(tom.dtype).max
tom = resample_poly(tom.astype(float), RATE, rate)
onset = int(np.argmax(np.abs(tom) > 0.05 * np.abs(tom).max()))

numbers = {
    "tom": kept("tom", tom[onset : onset + RATE]),
    "noise_035": kept("noise_035", noise_decay(0.35, 1)),
    "noise_080": kept("noise_080", noise_decay(0.8, 2, 1.4)),
}
(HERE / "numbers.json").write_text(json.dumps(numbers, indent=2) + "\n")
