# Reads and writes pictures with another library (OpenImageIO), for tests that hold ours against it.
# Standard input: a JSON list of tasks, each {"do": "write" | "read", "path", "raw", ...}; raw files hold samples as numpy has them.
import json
import sys

import numpy as np
import OpenImageIO as oiio

TYPES = {"u8": "uint8", "u10": "uint16", "u12": "uint16", "u16": "uint16", "f16": "half", "f32": "float"}
BITS = {"u10": 10, "u12": 12}


def as_array(samples, sample):
    return np.dtype({"u8": "uint8", "f16": "float16", "f32": "float32"}.get(sample, "uint16"))


def write(task):
    sample = task["sample"]
    shape = (task["height"], task["width"], task["channels"])
    pixels = np.fromfile(task["raw"], dtype=as_array(None, sample)).reshape(shape)
    if sample in BITS:
        # The library takes 16 bits and keeps the upper ones.
        full = (1 << BITS[sample]) - 1
        pixels = (pixels.astype("uint32") * 65535 + full // 2) // full
        pixels = pixels.astype("uint16")
    spec = oiio.ImageSpec(task["width"], task["height"], task["channels"], TYPES[sample])
    spec.attribute("oiio:UnassociatedAlpha", 1)
    if sample in BITS:
        spec.attribute("oiio:BitsPerSample", BITS[sample])
    for name, value in task.get("attributes", {}).items():
        spec.attribute(name, value)
    out = oiio.ImageOutput.create(task["path"])
    if out is None or not out.open(task["path"], spec) or not out.write_image(pixels):
        raise SystemExit(f"{task['path']}: {oiio.geterror() if out is None else out.geterror()}")
    out.close()
    return {}


def read(task):
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    file = oiio.ImageInput.open(task["path"], config)
    if file is None:
        raise SystemExit(f"{task['path']}: {oiio.geterror()}")
    spec = file.spec()
    sample = task["sample"]
    pixels = file.read_image(0, 0, 0, spec.nchannels, TYPES[sample])
    file.close()
    if sample in BITS:
        pixels >>= 16 - BITS[sample]
    np.ascontiguousarray(pixels).astype(as_array(None, sample)).tofile(task["raw"])
    told = {"width": spec.width, "height": spec.height, "channels": spec.nchannels}
    for name in task.get("tell", []):
        value = spec.getattribute(name)
        told[name] = list(value) if isinstance(value, tuple) else value
    return told


print(json.dumps([write(task) if task["do"] == "write" else read(task) for task in json.load(sys.stdin)]))
