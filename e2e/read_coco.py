"""Reads a COCO package by OpenCV and Python's json alone: python3 read_coco.py FOLDER. Prints what it found as JSON."""
import json
import os
import sys

import cv2
import numpy

folder = sys.argv[1]
found = []
for split in ("train", "val", "test"):
    path = os.path.join(folder, "annotations", f"instances_{split}.json")
    if not os.path.exists(path):
        continue
    with open(path, encoding="utf8") as file:
        document = json.load(file)
    names = {entry["id"]: entry["name"] for entry in document["categories"]}
    for image in document["images"]:
        pixels = cv2.imread(os.path.join(folder, "images", split, image["file_name"]))
        objects = []
        for entry in document["annotations"]:
            if entry["image_id"] != image["id"]:
                continue
            # How much an outline and its box agree: the area that OpenCV fills, and the box around it.
            filled = None
            if isinstance(entry.get("segmentation"), list) and entry["segmentation"]:
                canvas = numpy.zeros(pixels.shape[:2], numpy.uint8)
                parts = [numpy.round(numpy.array(ring).reshape(-1, 2)).astype(int) for ring in entry["segmentation"]]
                cv2.fillPoly(canvas, parts, 1)
                x, y, width, height = cv2.boundingRect(canvas)
                filled = [x, y, width, height]
            objects.append({"class": names[entry["category_id"]], "box": entry["bbox"], "filled": filled})
        found.append(
            {
                "split": split,
                "name": image["file_name"],
                "declared": [image["width"], image["height"]],
                "size": [pixels.shape[1], pixels.shape[0]],
                "mean": [float(level) for level in pixels.mean(axis=(0, 1))],
                "objects": objects,
            }
        )
print(json.dumps(found))
