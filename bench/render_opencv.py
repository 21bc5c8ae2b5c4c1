"""Decode, scale and turn, tone, encode with OpenCV, in several processes; prints seconds without their start."""
import math
import multiprocessing
import os
import random
import sys
import time

import cv2
import numpy

cv2.setNumThreads(1)


def work(job):
    path, copies, quality = job
    draws = random.Random(path)
    made = 0
    image = cv2.imread(path)
    height, width = image.shape[:2]
    scale = min(640 / width, 640 / height)
    out = (round(width * scale), round(height * scale))
    small = cv2.resize(image, out, interpolation=cv2.INTER_AREA)
    for copy in range(copies + 1):
        result = small
        if copy > 0:
            matrix = cv2.getRotationMatrix2D((out[0] / 2, out[1] / 2), draws.uniform(-15, 15), 1)
            result = cv2.warpAffine(small, matrix, out, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
            result = cv2.convertScaleAbs(result, alpha=1, beta=255 * draws.uniform(-0.2, 0.2))
            saturation = 1 + draws.uniform(-0.3, 0.3)
            shares = numpy.array([0.0722, 0.7152, 0.2126])
            mixing = numpy.eye(3) * saturation + (1 - saturation) * numpy.tile(shares, (3, 1))
            result = cv2.transform(result, mixing)
        made += len(cv2.imencode(".jpg", result, [cv2.IMWRITE_JPEG_QUALITY, quality])[1])
    return made


if __name__ == "__main__":
    folder, copies, processes, quality = sys.argv[1], int(sys.argv[2]), int(sys.argv[3]), int(sys.argv[4])
    jobs = [(os.path.join(folder, name), copies, quality) for name in sorted(os.listdir(folder))]
    with multiprocessing.Pool(processes) as pool:
        pool.map(work, jobs[:4])
        began = time.perf_counter()
        pool.map(work, jobs, chunksize=4)
        print(time.perf_counter() - began)
