"""Stills as other libraries read them: values 0 to 1 for integers, floats as they are; height x width x channels."""

import re

import numpy as np


def scaled(array):
    array = np.asarray(array)
    if array.ndim == 2:
        array = array[..., None]
    if array.dtype.kind == "f":
        return array.astype(np.float64)
    return array.astype(np.float64) / np.iinfo(array.dtype).max


def by_oiio(path):
    import OpenImageIO as library

    as_stored = library.ImageSpec()
    as_stored.attribute("oiio:UnassociatedAlpha", 1)
    file = library.ImageInput.open(path, as_stored)
    if file is None:
        raise ValueError(library.geterror())
    spec = file.spec()
    found = file.read_image(0, 0, 0, spec.nchannels, str(spec.format))
    if found is None:
        raise ValueError(file.geterror())
    file.close()
    found = np.asarray(found).reshape(spec.height, spec.width, spec.nchannels)
    bits = spec.get_int_attribute("oiio:BitsPerSample", 0)
    if bits in (10, 12) and found.dtype == np.uint16:
        # Its readers put such codes at the top of 16 bits, some repeating them below, some not.
        return (found >> (16 - bits)).astype(np.float64) / ((1 << bits) - 1)
    return scaled(found)


def by_pillow(path):
    from PIL import Image

    with Image.open(path) as image:
        if image.mode == "P":
            image = image.convert("RGB")
        return scaled(np.asarray(image))


def by_pyav(path):
    import av

    layouts = {
        **{"rgb24": "rgb24", "rgba": "rgba", "rgb48le": "rgb48le", "rgba64le": "rgba64le", "gray": "gray", "ya8": "ya8"},
        **{"gray16le": "gray16le", "gbrpf32le": "gbrpf32le", "gbrapf32le": "gbrapf32le", "grayf32le": "grayf32le"},
    }
    with av.open(path) as container:
        frame = next(container.decode(video=0))
        name = frame.format.name
        if name == "grayf32le":
            plane = frame.planes[0]
            rows = np.frombuffer(bytes(plane), "<f4").reshape(frame.height, plane.line_size // 4)
            return rows[:, : frame.width, None].astype(np.float64)
        if name in ("rgbf32le", "rgbaf32le"):
            channels = 4 if "a" in name else 3
            plane = frame.planes[0]
            rows = np.frombuffer(bytes(plane), "<f4").reshape(frame.height, plane.line_size // 4)
            return rows[:, : frame.width * channels].reshape(frame.height, frame.width, channels).astype(np.float64)
        if name in ("ya8", "ya16le"):
            kind = "u1" if name == "ya8" else "<u2"
            rows = np.frombuffer(bytes(frame.planes[0]), kind).reshape(frame.height, -1)[:, : frame.width * 2]
            return scaled(rows.reshape(frame.height, frame.width, 2))
        return scaled(frame.to_ndarray(format=layouts[name]))


def by_head(path):
    """PNM, PAM and PFM by what their heads say."""
    with open(path, "rb") as file:
        data = file.read()
    if data[:2] == b"P7":
        end = data.index(b"ENDHDR\n") + 7
        head = dict(line.split(None, 1) for line in data[3:end].decode().splitlines() if " " in line)
        shape = (int(head["HEIGHT"]), int(head["WIDTH"]), int(head["DEPTH"]))
        most = int(head["MAXVAL"])
    else:
        match = re.match(rb"(P\w)\s(?:#[^\n]*\n)?\s*(\d+)\s+(\d+)\s+(-?[\d.]+)\s", data)
        width, height = int(match[2]), int(match[3])
        channels = 3 if match[1] in (b"P3", b"P6", b"PF") else 1
        end, shape = match.end(), (height, width, channels)
        if match[1] in (b"PF", b"Pf"):
            order = "<" if float(match[4]) < 0 else ">"
            return np.frombuffer(data, f"{order}f4", offset=end).reshape(shape)[::-1].astype(np.float64)
        most = int(match[4])
        if match[1] in (b"P2", b"P3"):
            return np.array(data[end:].split(), dtype=np.float64).reshape(shape) / most
    return np.frombuffer(data, ">u2" if most > 255 else "u1", offset=end).reshape(shape).astype(np.float64) / most


BY_ENDING = {"jxl": by_pyav, "pam": by_head, "ppm": by_head, "pgm": by_head, "pfm": by_head, "webp": by_pillow, "gif": by_pillow}


def read_still(path):
    return BY_ENDING.get(path.rsplit(".", 1)[1], by_oiio)(path)
