"""The same as relief.rs by general libraries: SciPy's exact distance with indices, OpenCV's Gaussian and Sobel."""
import time
import cv2
import numpy as np
from scipy.ndimage import distance_transform_edt

cv2.setNumThreads(2)
y, x = np.mgrid[0:1080, 0:1920].astype(np.float32) + 0.5
cx, cy = np.floor(x / 160) * 160 + 80.3, np.where(y < 560, 430.7, 690.2)
far = np.hypot(x - cx, y - cy)
m = np.clip(70.5 - far, 0, 1) - np.clip(34.5 - far, 0, 1)
m[(y < 300) | (y >= 800)] = 0


def timed(name, f, n=7):
    f()
    best = min((lambda t: (f(), time.perf_counter() - t)[1])(time.perf_counter()) for _ in range(n))
    print(f"{name}: {best * 1000:.1f} ms")


timed("SciPy distance_transform_edt with indices", lambda: distance_transform_edt(m >= 0.5, return_indices=True), 3)
rgba = np.random.default_rng(1).random((1080, 1920, 4), dtype=np.float32)
timed("OpenCV GaussianBlur, sigma 10, RGBA float", lambda: cv2.GaussianBlur(rgba, (0, 0), 10))


def normals():
    gx, gy = cv2.Sobel(m.astype(np.float32), cv2.CV_32F, 1, 0), cv2.Sobel(m.astype(np.float32), cv2.CV_32F, 0, 1)
    n = np.dstack([-gx, gy, np.ones_like(gx)])
    return n / np.linalg.norm(n, axis=2, keepdims=True)


timed("OpenCV two Sobel and normalising", normals)
