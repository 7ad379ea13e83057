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
from scipy.signal import butter, resample_poly, sosfilt

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


def room(name, t60_by_octave, seed, length=2.2):
    """A synthetic impulse response whose octaves decay as given, after a little quiet; numbers by octave from octave-filtered sound."""
    random = np.random.default_rng(seed)
    t = np.arange(int(length * RATE)) / RATE
    sound = 1e-5 * random.standard_normal(int(0.3 * RATE) + t.size)
    for centre, t60 in t60_by_octave.items():
        band = sosfilt(octave(centre), random.standard_normal(t.size) * 10 ** (-3 * t / t60))
        sound[-t.size :] += band * 0.12 * np.sqrt(1000 / centre)
    whole = np.round(np.clip(sound, -1, 1) * 32767).astype(np.int16)
    wavfile.write(HERE / f"{name}.wav", RATE, whole)
    samples = whole[int(0.3 * RATE) :] / 32768.0
    # Filtered backwards, so that the filter's own decay does not lengthen the room's.
    bands = {centre: sosfilt(octave(centre), samples[::-1])[::-1] for centre in t60_by_octave}
    return {f"t20_{centre}_hz_s": float(measure_rt60(band, fs=RATE, decay_db=20)) for centre, band in bands.items()}


def octave(centre):
    half = 10**0.15
    return butter(3, [centre / half, centre * half], btype="bandpass", fs=RATE, output="sos")


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
rooms = {"room": room("room", {250: 1.6, 500: 1.2, 1000: 0.9, 2000: 0.7}, 4)}
(HERE / "rooms.json").write_text(json.dumps(rooms, indent=2) + "\n")
