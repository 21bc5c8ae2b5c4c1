/** A script that lies in every package: counts its pictures and opens a sample of them, with Python's own library alone. */

/** `pictures` is how many files of pictures there have to be; null where they lie inside other files. */
export function checkScript(pictures: number | null): string {
  return `"""Counts the pictures of this package and opens a sample of them: python3 check.py"""
import os
import random
import sys

PICTURES = ${pictures ?? "None"}
STARTS = {
    ".jpg": (b"\\xff\\xd8\\xff",),
    ".jpeg": (b"\\xff\\xd8\\xff",),
    ".png": (b"\\x89PNG\\r\\n\\x1a\\n",),
    ".webp": (b"RIFF",),
    ".gif": (b"GIF8",),
    ".bmp": (b"BM",),
    ".tif": (b"II*\\x00", b"MM\\x00*"),
    ".tiff": (b"II*\\x00", b"MM\\x00*"),
    ".avif": (b"\\x00\\x00\\x00",),
}

here = os.path.dirname(os.path.abspath(__file__))
found, files = [], 0
for folder, _, names in os.walk(here):
    for name in names:
        files += 1
        # Masks are labels: they lie in folders of their own.
        inside = os.path.relpath(folder, here).split(os.sep)
        if os.path.splitext(name)[1].lower() in STARTS and "masks" not in inside and "annotations" not in inside:
            found.append(os.path.join(folder, name))

if PICTURES is None:
    print(f"{files} files; the pictures lie inside them")
    sys.exit(0)
print(f"{len(found)} of {PICTURES} pictures")
broken = []
for path in random.Random(1).sample(found, min(50, len(found))):
    with open(path, "rb") as file:
        start = file.read(16)
    if not start.startswith(STARTS[os.path.splitext(path)[1].lower()]):
        broken.append(path)
for path in broken:
    print("cannot be a picture:", path)
sys.exit(0 if len(found) == PICTURES and not broken else 1)
`;
}
