"""The libraries' side of the proof of footage: clips made and read by PyAV, sound by plain arithmetic.

Every picture bears its number in its pixels, as eight squares of black and white, and six patches of colour below.
Standard input: JSON; standard output: JSON.
"""

import json
import os
import struct
import sys
import wave
from fractions import Fraction

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))

import av
import numpy as np

from readers import read_still

av.logging.set_level(av.logging.PANIC)

#: Large enough for every encoder here.
SQUARE = 32
WIDTH, HEIGHT = 8 * SQUARE, 4 * SQUARE
PATCHES = np.array(
    [(0.8, 0.1, 0.1), (0.1, 0.7, 0.2), (0.15, 0.2, 0.85), (0.5, 0.5, 0.5), (0.9, 0.8, 0.1), (0.95, 0.95, 0.95), (0.05, 0.05, 0.05), (0.3, 0.6, 0.7)]
)
OPACITY = np.array([1, 0.75, 0.5, 0.25, 1, 0.9, 1, 0.6])


def picture(number, bits=8, alpha=False):
    most = (1 << bits) - 1
    values = np.zeros((HEIGHT, WIDTH, 4 if alpha else 3))
    for at in range(8):
        here = slice(at * SQUARE, (at + 1) * SQUARE)
        values[:SQUARE, here, :3] = number >> at & 1
        values[SQUARE:, here, :3] = PATCHES[at]
        if alpha:
            values[:SQUARE, here, 3] = 1
            values[SQUARE:, here, 3] = OPACITY[at]
    return np.rint(values * most).astype(np.uint8 if bits == 8 else np.uint16)


def told(values):
    """The number that a picture bears and how far its patches are from those that were made, in values."""
    inner = slice(SQUARE // 4, -SQUARE // 4)
    number, colour, opacity = 0, 0.0, 0.0
    for at in range(8):
        here = values[:, at * SQUARE : (at + 1) * SQUARE]
        square, patch = here[:SQUARE][inner, inner], here[SQUARE:][inner, inner]
        number |= int(square[..., :3].mean() > 0.5) << at
        colour = max(colour, float(np.abs(patch[..., :3].mean(axis=(0, 1)) - PATCHES[at]).max()))
        if values.shape[-1] == 4:
            opacity = max(opacity, float(np.abs(patch[..., 3].mean() - OPACITY[at])))
    return number, colour, opacity


def frames(task):
    """Numbered PNG files, number and file name alike."""
    import OpenImageIO as library

    os.makedirs(task["folder"], exist_ok=True)
    for number in range(task["first"], task["first"] + task["count"]):
        values = picture(number, task.get("bits", 8), task.get("alpha", False))
        spec = library.ImageSpec(WIDTH, HEIGHT, values.shape[-1], str(values.dtype))
        spec.attribute("oiio:UnassociatedAlpha", 1)
        out = library.ImageOutput.create("x.png")
        out.open(os.path.join(task["folder"], f"shot.{number:04d}.png"), spec)
        out.write_image(values)
        out.close()
    return {}


LUMA = {1: (0.2126, 0.0722), 5: (0.299, 0.114), 6: (0.299, 0.114), 9: (0.2627, 0.0593)}


#: Layouts of one plane: channels, their kind, and which of red, green, blue and alpha stands at each place.
PACKED = {
    **{"rgb24": (3, "u1", [0, 1, 2]), "bgr24": (3, "u1", [2, 1, 0]), "rgba": (4, "u1", [0, 1, 2, 3])},
    **{"bgra": (4, "u1", [2, 1, 0, 3]), "argb": (4, "u1", [3, 0, 1, 2]), "bgr0": (4, "u1", [2, 1, 0, 3])},
    **{"rgb48le": (3, "<u2", [0, 1, 2]), "rgb48be": (3, ">u2", [0, 1, 2])},
    **{"rgba64le": (4, "<u2", [0, 1, 2, 3]), "rgba64be": (4, ">u2", [0, 1, 2, 3])},
}


def coded(values, layout, matrix=6):
    """A picture as a frame of a layout: by a matrix of ITU-T H.273 in limited range, or as RGB."""
    height, width, channels = values.shape
    frame = av.VideoFrame(width, height, layout)
    form = frame.format
    is_rgb = form.is_rgb
    if layout in PACKED:
        channels, kind, order = PACKED[layout]
        whole = np.concatenate([values, np.ones_like(values[..., :1])], axis=-1)[..., :channels] if channels > values.shape[-1] else values
        codes = np.rint(whole * np.iinfo(kind).max).astype(kind)[..., order]
        plane = frame.planes[0]
        rows = np.zeros((height, plane.line_size), dtype=np.uint8)
        rows[:, : width * channels * codes.itemsize] = codes.reshape(height, -1).view(np.uint8)
        plane.update(rows.tobytes())
        return frame
    bits = form.components[0].bits
    most = (1 << bits) - 1
    if layout.startswith("gray"):
        planes = [values[..., 0] * most]
    elif is_rgb:
        planes = [values[..., at] * most for at in (1, 2, 0)]
    else:
        red, blue = LUMA[matrix]
        luma = red * values[..., 0] + (1 - red - blue) * values[..., 1] + blue * values[..., 2]
        scale = 1 << (bits - 8)
        full = layout.startswith("yuvj")
        planes = [luma * most if full else (16 + 219 * luma) * scale]
        for at, weight in ((2, blue), (0, red)):
            difference = (values[..., at] - luma) / (2 * (1 - weight))
            planes.append(difference * most + (1 << (bits - 1)) if full else (128 + 224 * difference) * scale)
    if channels == 4 and len(frame.planes) == 4:
        planes.append(values[..., 3] * most)
    for plane, wanted in zip(frame.planes, planes):
        across, down = width // plane.width, height // plane.height
        small = wanted.reshape(plane.height, down, plane.width, across).mean(axis=(1, 3))
        kind = np.uint8 if bits == 8 else np.uint16
        row = np.zeros((plane.height, plane.line_size // kind().itemsize), dtype=kind)
        row[:, : plane.width] = np.clip(np.rint(small), 0, most)
        plane.update(row.tobytes())
    return frame


def said(path):
    """Matrix and whether the range is full, as codes of ITU-T H.273 in the container; (None, None) where it says nothing."""
    with open(path, "rb") as file:
        data = file.read()
    for kind in (b"colrnclx", b"colrnclc"):
        at = data.find(kind)
        if at >= 0:
            _, _, matrix = struct.unpack(">HHH", data[at + 8 : at + 14])
            return matrix, bool(data[at + 14] & 128) if kind == b"colrnclx" else None
    # MXF: the local tag of Coding Equations and a label of SMPTE ST 2067-21, its last but two bytes telling which.
    equations = data.find(b"\x32\x1a\x00\x10\x06\x0e\x2b\x34\x04\x01\x01")
    if equations >= 0:
        return {1: 6, 2: 1, 6: 9}.get(data[equations + 17]), None
    matrix = data.find(b"\x55\xb1\x81")
    span = data.find(b"\x55\xb9\x81")
    return (data[matrix + 3] if matrix >= 0 else None), (data[span + 3] == 2 if span >= 0 else None)


def values_of(frame, matrix=None, is_full=None):
    """A decoded frame as values 0 to 1, by matrix and range; BT.601 and limited where nothing is said."""
    form = frame.format
    if form.name in PACKED:
        channels, kind, order = PACKED[form.name]
        size = np.dtype(kind).itemsize
        rows = np.frombuffer(bytes(frame.planes[0]), np.uint8).reshape(frame.height, -1)[:, : frame.width * channels * size]
        found = np.ascontiguousarray(rows).view(kind).reshape(frame.height, frame.width, channels) / np.iinfo(kind).max
        found = found[..., np.argsort(order)]
        return found[..., :3] if "0" in form.name else found
    bits = form.components[0].bits
    planes = []
    for plane in frame.planes:
        kind = "u1" if bits == 8 else "<u2"
        rows = np.frombuffer(bytes(plane), kind).reshape(plane.height, -1)[:, : plane.width].astype(np.float64)
        planes.append(np.repeat(np.repeat(rows, frame.height // plane.height, axis=0), frame.width // plane.width, axis=1))
    most = (1 << bits) - 1
    alpha = [planes[3] / most] if len(planes) == 4 else []
    if form.name.startswith("gray"):
        return np.stack([planes[0] / most] * 3, axis=-1)
    if form.is_rgb:
        green, blue, red = (plane / most for plane in planes[:3])
        return np.stack([red, green, blue, *alpha], axis=-1)
    red_weight, blue_weight = LUMA.get(matrix, LUMA[6])
    scale = 1 << (bits - 8)
    if is_full or form.name.startswith("yuvj"):
        luma, cb, cr = planes[0] / most, (planes[1] - (1 << (bits - 1))) / most, (planes[2] - (1 << (bits - 1))) / most
    else:
        luma = (planes[0] / scale - 16) / 219
        cb, cr = ((plane / scale - 128) / 224 for plane in planes[1:3])
    red = luma + 2 * (1 - red_weight) * cr
    blue = luma + 2 * (1 - blue_weight) * cb
    green = (luma - red_weight * red - blue_weight * blue) / (1 - red_weight - blue_weight)
    return np.stack([red, green, blue, *alpha], axis=-1)


def tone(seconds, rate, channels=2):
    """Sound of 16 bits of which every sample is known: a sweep and a counter."""
    at = np.arange(int(seconds * rate))
    left = np.rint(12000 * np.sin(2 * np.pi * (200 + at / 40) * at / rate)).astype(np.int16)
    right = ((at * 37) % 20001 - 10000).astype(np.int16)
    return np.stack([left, right][:channels], axis=-1)


def clip(task):
    """A clip of numbered pictures, with or without sound."""
    rate = Fraction(task["rate"])
    os.makedirs(os.path.dirname(task["path"]), exist_ok=True)
    with av.open(task["path"], "w", format=task.get("format")) as out:
        stream = out.add_stream(task["codec"], rate=rate, options=task.get("options", {}))
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, task["layout"]
        sound = None
        if task.get("sound"):
            sound = out.add_stream(task["sound"], rate=48000)
            sound.layout = "stereo"
        for number in range(task["count"]):
            frame = coded(picture(number, 16, task.get("alpha", False)) / 65535, task["layout"], task.get("matrix", 6))
            frame.pts, frame.time_base = number, 1 / rate
            for packet in stream.encode(frame):
                out.mux(packet)
        for packet in stream.encode(None):
            out.mux(packet)
        if sound:
            samples = tone(task["count"] / rate, 48000)
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples.reshape(1, -1)), format="s16", layout="stereo")
            frame.sample_rate, frame.pts = 48000, 0
            for packet in [*sound.encode(frame), *sound.encode(None)]:
                out.mux(packet)
    return {}


def wav(task):
    samples = tone(Fraction(task["seconds"]), 48000)
    with wave.open(task["path"], "wb") as out:
        out.setnchannels(2)
        out.setsampwidth(2)
        out.setframerate(48000)
        out.writeframes(samples.tobytes())
    return {}


def heard(container):
    """Every sample of the first sound, as 16 bits."""
    pieces = []
    for frame in container.decode(audio=0):
        piece = frame.to_ndarray()
        planar = frame.format.is_planar
        piece = piece.T if planar else piece.reshape(-1, len(frame.layout.channels))
        if piece.dtype.kind == "f":
            piece = piece * 32768
        elif piece.dtype == np.int32:
            piece = piece / 65536
        pieces.append(piece)
    return np.concatenate(pieces) if pieces else np.zeros((0, 2))


def apart(found, has=None):
    """Most that sound is off from the tone over what both have, and how many samples there are; the tone may have fewer."""
    made = tone(len(found) / 48000 + 2, 48000)[: len(found)].astype(np.float64)
    off = np.abs(found - made)[:has]
    return {"samples": len(found), "most": float(off.max()) if len(off) else None}


def look_clip(task):
    matrix, is_full = said(task["path"])
    with av.open(task["path"]) as container:
        stream = container.streams.video[0]
        numbers, colour, opacity, times = [], 0.0, 0.0, []
        for frame in container.decode(stream):
            number, off, clear = told(values_of(frame, matrix, is_full))
            numbers.append(number)
            colour, opacity = max(colour, off), max(opacity, clear)
            times.append(float(frame.pts * frame.time_base))
        answer = {
            **{"numbers": numbers, "colour": colour, "opacity": opacity, "layout": stream.codec_context.pix_fmt},
            **{"matrix": matrix, "full": is_full, "rate": str(stream.average_rate), "codec": stream.codec_context.name, "times": times},
            "size": [stream.width, stream.height],
        }
        if container.streams.audio:
            container.seek(0)
            answer["sound"] = apart(heard(container))
    return answer


def look_frames(task):
    numbers, colour, opacity = [], 0.0, 0.0
    for path in task["paths"]:
        number, off, clear = told(read_still(path))
        numbers.append(number)
        colour, opacity = max(colour, off), max(opacity, clear)
    answer = {"numbers": numbers, "colour": colour, "opacity": opacity}
    if task.get("sound"):
        with av.open(task["sound"]) as container:
            answer["sound"] = apart(heard(container), task.get("samples"))
    return answer


def each(task):
    """Many tasks, each with its answer or what was wrong with it."""
    answers = []
    for one in task["tasks"]:
        try:
            answers.append(TASKS[one["do"]](one))
        except Exception as error:  # noqa: BLE001 - told, never hidden
            answers.append({"error": f"{type(error).__name__}: {error}"})
    return answers


TASKS = {"frames": frames, "clip": clip, "wav": wav, "look clip": look_clip, "look frames": look_frames, "each": each}
if __name__ == "__main__":
    json.dump(TASKS["each"](json.load(sys.stdin)), sys.stdout)
