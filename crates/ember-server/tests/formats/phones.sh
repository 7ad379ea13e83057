#!/usr/bin/env bash
# Makes the strike in the formats that phones record, with Debian's ffmpeg: apt-get install ffmpeg
set -euo pipefail
cd "$(dirname "$0")"
make() { ffmpeg -loglevel error -y "$@"; }
plain=(-map_metadata -1 -fflags +bitexact)
make -i wav-float.wav -ar 44100 -c:a aac -b:a 128k "${plain[@]}" aac.m4a
make -i wav-float.wav -c:a alac -sample_fmt s16p "${plain[@]}" alac.m4a
make -i wav-float.wav -c:a alac -sample_fmt s16p "${plain[@]}" alac.caf
make -f lavfi -i color=c=gray:s=32x32:r=2:d=3 -i wav-float.wav -ar 44100 -c:v mpeg4 -c:a aac -b:a 96k -shortest "${plain[@]}" video.mov
make -i wav-float.wav -ar 48000 -c:a libopus -b:a 96k "${plain[@]}" opus.ogg
make -i wav-float.wav -ar 48000 -ac 2 -c:a libopus -b:a 96k "${plain[@]}" opus.webm
make -f lavfi -i color=c=gray:s=32x32:r=2:d=3 -i wav-float.wav -ar 48000 -c:v libvpx -c:a libopus -b:a 96k -shortest "${plain[@]}" video.webm
