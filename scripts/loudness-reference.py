"""What a standard's loudness says of how far a band covers a tone: the tables in ember-core/src/venue/masking.rs and loudness.rs.

    python3 -m venv v && v/bin/pip install mosqito matplotlib && v/bin/python scripts/loudness-reference.py

A tone in noise is taken to be just audible where it raises the specific loudness of its critical band (ISO 532-1, stationary, free field) by as much as
1 dB more noise would. Printed: the tone's level against the noise in its own octave, dB, and the same where the noise lies one octave below at 85 dB; then the
specific loudness in the middle of each critical band of three spectra of third octaves from 25 Hz to 12.5 kHz.
"""

import numpy as np
from mosqito.sq_metrics.loudness.loudness_zwst._calc_slopes import _calc_slopes
from mosqito.sq_metrics.loudness.loudness_zwst._main_loudness import _main_loudness
from mosqito.sq_metrics.loudness.loudness_zwst.loudness_zwst import loudness_zwst

RATE = 48_000
SECONDS = 4.0
EDGES = [(44.5, 89), (89, 178), (178, 355), (355, 708), (708, 1413), (1413, 2818), (2818, 5623)]
P0 = 2e-5


def octave_noise(low, high, level_db):
    """Noise of even spectral density between two frequencies."""
    n = int(RATE * SECONDS)
    spectrum = np.fft.rfft(np.random.default_rng(1).standard_normal(n))
    hz = np.fft.rfftfreq(n, 1 / RATE)
    spectrum[(hz < low) | (hz > high)] = 0
    noise = np.fft.irfft(spectrum, n)
    return noise * P0 * 10 ** (level_db / 20) / np.sqrt(np.mean(noise**2))


def in_band(sound, hz):
    """Loudness of the critical band about a frequency, sone."""
    bark = 13 * np.arctan(0.76 * hz / 1000) + 3.5 * np.arctan((hz / 7500) ** 2)
    _, specific, axis = loudness_zwst(sound, RATE)
    return specific[np.abs(axis - bark) <= 0.5].sum()


def just_audible(noise, hz):
    """Level of the tone that raises its band as 1 dB more noise does, dB."""
    time = np.arange(len(noise)) / RATE
    alone = in_band(noise, hz)
    rise = in_band(noise * 10 ** (1 / 20), hz) - alone
    low, high = 0.0, 95.0
    for _ in range(18):
        middle = 0.5 * (low + high)
        tone = P0 * 10 ** (middle / 20) * np.sqrt(2) * np.sin(2 * np.pi * hz * time)
        low, high = (middle, high) if in_band(noise + tone, hz) - alone < rise else (low, middle)
    return 0.5 * (low + high)


for index, (low, high) in enumerate(EDGES):
    hz = np.sqrt(low * high)
    own = just_audible(octave_noise(low, high, 70), hz) - 70
    below = just_audible(octave_noise(*EDGES[index - 1], 85), hz) - 85 if index > 0 else float("nan")
    print(f"{hz:7.0f} Hz: own octave {own:6.1f} dB, octave below {below:6.1f} dB")


UPPER_BARK = [0, 0.9, 1.8, 2.8, 3.5, 4.4, 5.4, 6.6, 7.9, 9.2, 10.6, 12.3, 13.8, 15.2, 16.7, 18.1, 19.3, 20.6, 21.8, 22.7, 23.6]
BASS = [-60] * 3 + [80] * 3 + [-60] * 22
BAND = [60, 62, 66, 74, 78, 80, 80, 79, 78, 77, 77, 76, 74, 73, 72, 71, 70, 68, 66, 64, 62, 60, 57, 54, 50, 46, 42, 38]
for name, thirds in [("70 dB each", [70] * 28), ("bass", BASS), ("band", BAND)]:
    _, specific = _calc_slopes(_main_loudness(np.array(thirds, float), "free"))
    specific = np.asarray(specific).reshape(240, -1)[:, 0]
    middles = [0.5 * (low + high) for low, high in zip(UPPER_BARK, UPPER_BARK[1:])]
    print(name, [round(float(np.interp(middle, np.arange(1, 241) * 0.1, specific)), 4) for middle in middles])
