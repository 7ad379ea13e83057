"""Makes one simulated strike in every format that can be read, with libsndfile as the independent writer.

    pip install soundfile==0.13.1 scipy numpy
    soft-ember simulate --drum floor-tom --strikes 1 --seed 5 --out /tmp/strike.wav
    python make.py /tmp/strike.wav
"""

import pathlib
import sys

import numpy as np
import soundfile
from scipy.signal import resample_poly

HERE = pathlib.Path(__file__).parent
RATE = 16_000

sound, rate = soundfile.read(sys.argv[1])
sound = resample_poly(sound, RATE, rate)[int(0.5 * RATE) :]
for name, subtype in [
    ("wav-8.wav", "PCM_U8"),
    ("wav-16.wav", "PCM_16"),
    ("wav-24.wav", "PCM_24"),
    ("wav-float.wav", "FLOAT"),
    ("flac-16.flac", "PCM_16"),
    ("aiff-16.aiff", "PCM_16"),
]:
    soundfile.write(HERE / name, sound, RATE, subtype=subtype)
# Lossy formats at the rate that they are made for.
full = resample_poly(sound, 441, 160)
soundfile.write(HERE / "vorbis.ogg", full, 44_100, subtype="VORBIS")
soundfile.write(HERE / "mp3.mp3", full, 44_100, subtype="MPEG_LAYER_III")
# The slowest and the fastest rate; the latter short, to stay small.
soundfile.write(HERE / "slow-8000.flac", resample_poly(sound, 8_000, RATE), 8_000, subtype="PCM_16")
soundfile.write(HERE / "fast-192000.flac", resample_poly(sound, 192_000, RATE)[: int(2.2 * 192_000)], 192_000, subtype="PCM_16")
both = np.stack([sound, 0.5 * sound], axis=1)
soundfile.write(HERE / "stereo.flac", both, RATE, subtype="PCM_16")
