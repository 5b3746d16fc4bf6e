#!/usr/bin/env python3
"""The map of benches/resample.rs through cv2.remap (PyPI: numpy, opencv-python-headless), median of nine, ms."""

import time

import cv2
import numpy as np

for name, (w, h) in [("1080p", (1920, 1080)), ("4k", (3840, 2160))]:
    picture = np.random.default_rng(1).random((h, w, 4), dtype=np.float32)
    ys, xs = np.mgrid[0:h, 0:w].astype(np.float64) + 0.5
    x, y = (xs - w / 2) / (w / 2), (ys - h / 2) / (w / 2)
    s = x * x + y * y
    k = 1 - 0.1 * s + 0.01 * s * s
    mx = (x * k * w / 2 + w / 2 - 0.5).astype(np.float32)
    my = (y * k * w / 2 + h / 2 - 0.5).astype(np.float32)
    for kind, flag in [("linear", cv2.INTER_LINEAR), ("cubic", cv2.INTER_CUBIC), ("lanczos4", cv2.INTER_LANCZOS4)]:
        times = []
        for _ in range(9):
            start = time.perf_counter()
            cv2.remap(picture, mx, my, flag, borderMode=cv2.BORDER_CONSTANT)
            times.append(time.perf_counter() - start)
        print(f"{name} {kind}: {sorted(times)[4] * 1e3:.1f}")
