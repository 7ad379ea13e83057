#!/usr/bin/env python3
"""Holds `soft-ember measure` against other programs on recordings of real drums.

The recordings are openly licensed (CC0) one-shots of an acoustic kit from the Debian package sonic-pi-samples. They were cut and faded
by whoever published them, so each is looked at only up to 85 % of its length. Beside each stand: T20 by pyroomacoustics
(`measure_rt60`) from the same samples, and the body's decay from 0.15 s on in two ways: by a plain demodulation along its own pitch (NumPy,
SciPy), and by poles of the signal subspace, as in ESPRIT (HLSVDPRO, 16 poles of the sound brought down to 1 kHz).

Needs Debian or a relative of it (apt-get download), Python with venv, and a built target/release/soft-ember. Prints a Markdown table.
"""

import glob
import json
import os
import subprocess
import sys
import tempfile

HERE = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
PACKAGE = "sonic-pi-samples"
NEEDS = ["numpy", "scipy", "soundfile", "pyroomacoustics==0.10.1", "hlsvdpropy==2.0.2"]


def in_venv(folder):
    """Runs this script again with the packages it needs."""
    subprocess.run([sys.executable, "-m", "venv", f"{folder}/venv"], check=True)
    subprocess.run([f"{folder}/venv/bin/pip", "install", "--quiet", *NEEDS], check=True)
    subprocess.run(["apt-get", "download", PACKAGE], cwd=folder, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    subprocess.run(["dpkg", "-x", glob.glob(f"{folder}/{PACKAGE}*.deb")[0], f"{folder}/files"], check=True)
    return subprocess.run([f"{folder}/venv/bin/python", __file__, folder]).returncode


def measured(sound, rate, folder):
    """The one strike in `sound` as soft-ember measures it, a little hiss before it."""
    import numpy as np
    import soundfile

    lead = 1e-5 * np.random.default_rng(1).standard_normal(int(0.3 * rate))
    path = f"{folder}/one.wav"
    soundfile.write(path, np.concatenate([lead, sound]), rate, subtype="PCM_24")
    out = subprocess.run([f"{HERE}/target/release/soft-ember", "measure", "--json", path], capture_output=True, text=True)
    strikes = json.loads(out.stdout)["files"][0]["strikes"]
    return strikes[0] if strikes else None


def settled(sound, rate):
    """Pitch of the loudest tone under 500 Hz from 0.15 s on (Hz), and its T60 (s) by a line through its level."""
    import numpy as np
    from scipy.signal import firwin

    late = sound[int(0.15 * rate) :]
    power = np.abs(np.fft.rfft(late * np.hanning(len(late)), 8 * len(late)))
    hz_of = np.fft.rfftfreq(8 * len(late), 1 / rate)
    power[(hz_of > 500) | (hz_of < 40)] = 0
    hz = hz_of[np.argmax(power)]
    t = np.arange(len(sound)) / rate
    tone = np.convolve(sound * np.exp(-2j * np.pi * hz * t), firwin(int(0.05 * rate) | 1, 22, fs=rate), "same")
    span = slice(int(0.15 * rate), len(sound) - int(0.03 * rate))
    slope = np.polyfit(t[span], 20 * np.log10(np.abs(tone[span]) + 1e-12), 1)[0]
    turn = np.angle(np.sum(tone[span][1:] * np.conj(tone[span][:-1])))
    return hz + turn * rate / 2 / np.pi, -60 / slope


def by_poles(sound, rate, near_hz):
    """Pitch (Hz) and T60 (s) of the loudest decaying pole within 6 % of `near_hz` from 0.15 s on, or None."""
    from hlsvdpropy import hlsvdpro
    from scipy.signal import resample_poly

    slow = resample_poly(sound, 1, round(rate / 1000))
    slow_rate = rate / round(rate / 1000)
    late = slow[int(0.15 * slow_rate) : int(1.0 * slow_rate)].astype(complex)
    _, _, turns, damping, sizes, *_ = hlsvdpro(late, 16)
    poles = [(turn * slow_rate, -6.908 / (d * slow_rate), size) for turn, d, size in zip(turns, damping, sizes) if d < 0]
    near = [pole for pole in poles if abs(pole[0] / near_hz - 1) < 0.06]
    return max(near, key=lambda pole: pole[2])[:2] if near else None


def main(folder):
    import pyroomacoustics
    import soundfile

    print("| recording | T20, this program | T20, pyroomacoustics | body, this program | body, plain demodulation | body, HLSVDPRO |")
    print("|---|---|---|---|---|---|")
    for path in sorted(glob.glob(f"{folder}/files/usr/share/sonic-pi/samples/drum_*.flac")):
        name = os.path.basename(path)[5:-5].replace("_", " ")
        if not name.startswith(("tom", "snare", "bass")):
            continue
        sound, rate = soundfile.read(path)
        sound = (sound if sound.ndim == 1 else sound[:, 0])[: int(0.85 * len(sound))]
        strike = measured(sound, rate, folder)
        theirs = pyroomacoustics.experimental.measure_rt60(sound, fs=rate, decay_db=20)
        hz, t60 = settled(sound, rate)
        ours = strike["broadband"]["t20_s"] if strike else None
        near = [p for p in (strike or {}).get("partials", []) if abs(p["hz"] / hz - 1) < 0.06 and p["t60_s"]]
        near.sort(key=lambda p: -p["level_db"])
        pole = by_poles(sound, rate, hz)
        poles = f"{pole[0]:.1f} Hz, {pole[1]:.2f} s" if pole else "none"
        body = f"{near[0]['hz']:.1f} Hz, {near[0]['t60_s']:.2f} s" if near else "not given"
        print(f"| {name} | {ours:.2f} s | {theirs:.2f} s | {body} | {hz:.1f} Hz, {t60:.2f} s | {poles} |")


if __name__ == "__main__":
    if len(sys.argv) > 1:
        main(sys.argv[1])
    else:
        with tempfile.TemporaryDirectory() as made:
            sys.exit(in_venv(made))
