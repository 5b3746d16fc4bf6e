#!/usr/bin/env python3
"""Reading against the OpenEXR C++ library through its Python package (PyPI: numpy, OpenEXR), in one run.

    cargo build --release -p jugata-exchange --example read_time
    python3 reading.py ../../../target/release/examples/read_time

Makes a 1920×1080 file of 40 half channels (noise over smooth shading, as a render has) for each compression,
reads it with both in turn, and prints milliseconds and the ratio. Both read from memory or a warm file cache
and give planes; the library as the file's types, Jugata as 32-bit float.
"""

import os
import subprocess
import sys
import tempfile
import time

import numpy as np
import OpenEXR

W, H, CHANNELS, ROUNDS = 1920, 1080, 40, 3
CODECS = {"none": OpenEXR.NO_COMPRESSION, "RLE": OpenEXR.RLE_COMPRESSION, "ZIPS": OpenEXR.ZIPS_COMPRESSION,
          "ZIP": OpenEXR.ZIP_COMPRESSION, "PIZ": OpenEXR.PIZ_COMPRESSION, "PXR24": OpenEXR.PXR24_COMPRESSION,
          "B44": OpenEXR.B44_COMPRESSION, "DWAA": OpenEXR.DWAA_COMPRESSION}


def channels():
    rng = np.random.default_rng(1)
    y, x = np.mgrid[0:H, 0:W]
    out = {}
    for c in range(CHANNELS):
        v = 0.5 + 0.4 * np.sin(x / (60 + c)) * np.cos(y / (40 + c)) + rng.normal(0, 0.002, (H, W))
        v[y > H * 0.8] = 0  # an empty part, as most passes have
        out[f"layer{c // 4}.{'RGBA'[c % 4]}"] = v.astype(np.float16)
    return out


def library(path):
    start = time.perf_counter()
    with OpenEXR.File(path, separate_channels=True) as file:
        planes = [c.pixels for c in file.channels().values()]
    assert len(planes) == CHANNELS
    return (time.perf_counter() - start) * 1e3


def main():
    ours = sys.argv[1]
    data = channels()
    with tempfile.TemporaryDirectory() as folder:
        for name, codec in CODECS.items():
            path = os.path.join(folder, f"{name}.exr")
            OpenEXR.File({"compression": codec, "type": OpenEXR.scanlineimage}, dict(data)).write(path)
            theirs = min(library(path) for _ in range(ROUNDS))
            mine = float(subprocess.run([ours, path, str(ROUNDS)], check=True, capture_output=True, text=True).stdout)
            size = os.path.getsize(path) / 1e6
            print(f"{name:6} {size:7.1f} MB   library {theirs:7.0f} ms   Jugata {mine:7.0f} ms   ratio {mine / theirs:.2f}", flush=True)


main()
