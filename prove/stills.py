"""The libraries' side of the proof of stills. Standard input: JSON; standard output: JSON."""

import json
import os
import sys

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))

import numpy as np

import kinds
import pixels
from readers import read_still


def say_kinds(_):
    return [kind.facts() for kind in kinds.KINDS.values()]


def make(task):
    """Writes pictures of some kinds under folder/<kind>/shot.<number>.<ext>. Answers kinds that no library here writes."""
    lacking = {}
    for name in task["kinds"]:
        kind = kinds.KINDS[name]
        folder = os.path.join(task["folder"], name.replace(" ", "_").replace(":", ""))
        os.makedirs(folder, exist_ok=True)
        try:
            for at in task["numbers"]:
                kind.make(os.path.join(folder, f"shot.{at:04d}.{kind.ext}"), at)
        except (SystemExit, Exception) as error:  # noqa: BLE001 - told, never hidden
            lacking[name] = str(error)
    return lacking


def halves(values):
    """Distance of neighbouring half floats at values."""
    return np.spacing(np.abs(values).astype(np.float16)).astype(np.float64)


def hold(task):
    """Holds one result against what is wanted: None where it is that, else what is wrong in words."""
    kind = kinds.KINDS[task["kind"]]
    write = task["write"]
    expected = pixels.wanted(kind.truth(task["source"], task["at"]), {"alpha": kind.alpha, "transfer": kind.transfer}, write)
    if task.get("crop"):
        box = task["crop"]
        expected = expected[box["top"] : box["top"] + box["height"], box["left"] : box["left"] + box["width"]]
    try:
        found = read_still(task["result"])
    except Exception as error:  # noqa: BLE001
        return f"another library cannot read it: {error}"
    if expected.shape[-1] in write["without"]:
        colour = expected[..., :1].repeat(3, axis=-1)
        expected = np.concatenate([colour, expected[..., 1:]], axis=-1)
    if found.shape[-1] == 1 and expected.shape[-1] == 3 and write["format"] in ("bmp", "dpx"):
        found = found.repeat(3, axis=-1)  # a grey file, copied as it was
    if found.shape[-1] == 2 and expected.shape[-1] == 3 and write["format"] == "exr" and not expected[..., 2].any():
        expected = expected[..., :2]  # two channels, copied as they were
    if found.shape[-1] == 2 and expected.shape[-1] == 4 and write["format"] == "jxl":
        expected = expected[..., 2:]  # grey with alpha, copied as it was
    # Formats that always have alpha, or read as colour what is grey.
    if found.shape[:2] == expected.shape[:2] and found.shape[-1] != expected.shape[-1]:
        extra = found.shape[-1] - expected.shape[-1]
        if write["mayAddAlpha"] and extra == 1 and np.all(found[..., -1] == 1):
            found = found[..., :-1]
    if found.shape != expected.shape:
        return f"its shape is {found.shape}, not {expected.shape}"
    if write["format"] == "jxl" and write["sample"] == "f32" and found.shape[-1] > 2:
        # The library here gives floats of colour as 16 bits, and nothing beyond 0 and 1.
        write = {**write, "sample": "u16"}
    bits = {"u8": 8, "u10": 10, "u12": 12, "u16": 16}.get(write["sample"])
    if bits:
        most = (1 << bits) - 1
        off = np.abs(np.rint(found * most) - np.clip(expected, 0, 1) * most)
        # Between sRGB and BT.709 a step grows by at most a tenth.
        slack = kind.slack * (1 if write["transfer"] == kind.transfer else 1.1)
        allowed = 0.5 + (0.02 if bits == 16 else 0.002) + (kind.near + slack) * most
        unit = "steps"
    elif write["sample"] == "f16":
        off = np.abs(found - expected) / halves(expected)
        allowed, unit = 0.51 + (1000 if kind.near else 0), "halves apart"
    else:
        off = np.abs(found - expected) / np.maximum(1e-3, np.abs(expected))
        allowed, unit = 4e-7 + kind.near * 300, "of itself"
    if not bits and kind.slack:
        # Light grows by at most 2.4 times a step of sRGB, at white.
        off = np.abs(found - expected) - kind.slack * 2.4
    if write.get("lossy"):
        if write["alpha"] == "straight" and found.shape[-1] % 2 == 0:
            # What is clear is not seen, and not kept.
            found, expected = (np.concatenate([one[..., :-1] * one[..., -1:], one[..., -1:]], axis=-1) for one in (found, expected))
        error = float(np.sqrt(np.mean((found - np.clip(expected, 0, 1) if bits else found - expected) ** 2)))
        return None if error < write["lossy"] else f"it is {error:.4f} off on average"
    worst = float(off.max())
    if worst <= allowed:
        return None
    at = np.unravel_index(int(off.argmax()), off.shape)
    return f"{worst:.3f} {unit} off at x {at[1]}, y {at[0]}, channel {at[2]}: {found[at]:.6f} for {expected[at]:.6f}; {int((off > allowed).sum())} samples"


TASKS = {"kinds": say_kinds, "make": make, "hold": lambda task: [hold(one) for one in task["results"]]}
task = json.load(sys.stdin)
json.dump(TASKS[task["do"]](task), sys.stdout)
