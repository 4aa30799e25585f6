# Makes and reads files with libraries that Shale does not use (OpenImageIO, PyAV, Pillow), for tests of the whole path.
# Standard input: a JSON list of tasks, each {"do": ..., "path": ...}; the answers come back as a JSON list.
import json
import sys

import numpy as np


def picture(width, height, channels, bits, at):
    """Ramps, edges and noise; every picture is another. Alpha is never 0, so that colours everywhere count."""
    y, x = np.mgrid[0:height, 0:width]
    most = (1 << bits) - 1
    planes = [x * most // max(1, width - 1), y * most // max(1, height - 1), ((x // 4 + y // 4) % 2) * most]
    planes.append(np.clip((x + y) * most // (width + height), 1, most))
    made = np.stack(planes[:channels], axis=-1).astype(np.int64)
    noise = np.random.default_rng(at).integers(0, most + 1, size=(max(1, height // 3), width, min(3, channels)))
    made[: noise.shape[0], :, : noise.shape[2]] = noise
    return np.roll(made, at, axis=1).astype(np.uint8 if bits == 8 else np.uint16)


def oiio_write(path, pixels, attributes):
    import OpenImageIO as oiio

    height, width, channels = pixels.shape
    spec = oiio.ImageSpec(width, height, channels, str(pixels.dtype))
    spec.attribute("oiio:UnassociatedAlpha", 1)
    for name, value in attributes.items():
        if name == "tile":
            spec.tile_width = spec.tile_height = value
        else:
            spec.attribute(name, value)
    out = oiio.ImageOutput.create(path)
    if out is None or not out.open(path, spec) or not out.write_image(pixels):
        raise SystemExit(f"{path}: {oiio.geterror() if out is None else out.geterror()}")
    out.close()


def av_write(path, pixels, codec):
    """One still through a codec of PyAV's libraries."""
    import av

    height, width, channels = pixels.shape
    layout = {3: "rgb24", 4: "rgba"}[channels]
    context = av.CodecContext.create(codec, "w")
    context.width, context.height, context.pix_fmt = width, height, layout
    context.time_base = "1/25"
    context.options = {"distance": "0"} if codec == "libjxl" else {}
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format=layout)
    packets = list(context.encode(frame)) + list(context.encode(None))
    with open(path, "wb") as file:
        for packet in packets:
            file.write(bytes(packet))


def make(task):
    """Writes pictures number 0 to count - 1 under path with its number for a %d."""
    count = task.get("count", 1)
    for at in range(count):
        path = task["path"] % at if "%" in task["path"] else task["path"]
        pixels = picture(task["width"], task["height"], task["channels"], task.get("bits", 8), at)
        if task["with"] == "oiio":
            oiio_write(path, pixels, task.get("attributes", {}))
        elif task["with"] == "av":
            av_write(path, pixels, task["codec"])
        else:
            from PIL import Image

            Image.fromarray(pixels).save(path, **task.get("options", {}))
    return {}


def read_still(path):
    import OpenImageIO as oiio

    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    file = oiio.ImageInput.open(path, config)
    if file is None:
        raise SystemExit(f"{path}: {oiio.geterror()}")
    spec = file.spec()
    pixels = file.read_image(0, 0, 0, spec.nchannels, str(spec.format))
    file.close()
    return np.asarray(pixels).reshape(spec.height, spec.width, spec.nchannels)


def av_frames(path, layout):
    import av

    with av.open(path) as container:
        for frame in container.decode(video=0):
            yield frame.to_ndarray(format=layout)


def apart(task):
    """How far a still is from the picture that was made, or from another still, brought to 8 bits, of what is seen alone where it is asked for;
    -1 where shapes differ."""
    found = read_still(task["path"]).astype(np.int64)
    if "made" in task:
        wanted = picture(bits=task.get("bits", 8), **task["made"]).astype(np.int64)
    else:
        wanted = read_still(task["than"]).astype(np.int64)
    if task.get("bits", 8) == 16:
        wanted = (wanted + 128) // 257
    if found.shape != wanted.shape:
        return {"shape": list(found.shape), "most": -1}
    away = np.abs(found - wanted)
    if task.get("seen"):
        away[..., :3][wanted[..., 3] == 0] = 0
    return {"shape": list(found.shape), "most": int(away.max())}


def clip_apart(task):
    """How many pictures a clip has, and how many are not those that were made, brought to so many bits of GBR planes."""
    bits = task["bits"]
    wrong = []
    count = 0
    for at, found in enumerate(av_frames(task["path"], f"gbrp{bits}le")):
        made = picture(task["width"], task["height"], 3, 16, at).astype(np.int64)
        most = (1 << bits) - 1
        wanted = (made * most + 32767) // 65535
        count += 1
        if not np.array_equal(found.astype(np.int64), wanted):
            wrong.append(at)
    return {"count": count, "wrong": wrong}


def moving_bell(path, width, height, at):
    """A disc with soft edges that goes across a clear picture, as PNG."""
    from PIL import Image

    y, x = np.mgrid[0:height, 0:width].astype(np.float64)
    far = np.hypot(x - (at * 5) % width, y - height / 2)
    alpha = np.clip(height / 3 - far + 0.5, 0, 1)
    pixels = np.stack([200 + 0 * x, 40 + 3.0 * y, 255.0 * x / max(1, width - 1), 255 * alpha], axis=-1)
    Image.fromarray(np.clip(pixels.round(), 0, 255).astype(np.uint8)).save(path)


def make_loop(task):
    for at in range(task["count"]):
        moving_bell(task["path"] % at, task["width"], task["height"], at)
    return {}


def make_avif(task):
    """An image sequence of AVIF: a light that grows from picture to picture."""
    import av

    with av.open(task["path"], "w", format="avif") as out:
        stream = out.add_stream("libaom-av1", rate=task["rate"])
        stream.width, stream.height, stream.pix_fmt = task["width"], task["height"], "yuv420p"
        stream.options = {"cpu-used": "8", "crf": "10"}
        for at in range(task["count"]):
            grey = np.full((task["height"], task["width"], 3), 20 + 30 * at, np.uint8)
            for packet in stream.encode(av.VideoFrame.from_ndarray(grey, format="rgb24")):
                out.mux(packet)
        for packet in stream.encode():
            out.mux(packet)
    return {}


def middle_of(task):
    """The pixel in the middle of a still, in its own codes."""
    found = read_still(task["path"])
    return [int(code) for code in found[found.shape[0] // 2, found.shape[1] // 2]]


def animation(task):
    """What an animation holds, and how far its pictures are from stills: in colour where both are seen, in alpha, in the mean square."""
    from PIL import Image, ImageSequence

    with Image.open(task["path"]) as file:
        told = {"size": list(file.size), "loop": file.info.get("loop"), "format": file.format}
        pictures = [(np.asarray(one.convert("RGBA")).astype(np.int64), one.info.get("duration", 0)) for one in ImageSequence.Iterator(file)]
    told["delays"] = [delay for _, delay in pictures]
    most = alpha = square = seen = 0
    for at, (found, _) in enumerate([] if task.get("alone") else pictures):
        wanted = np.asarray(Image.open(task["than"] % at).convert("RGBA")).astype(np.int64)
        both = (found[..., 3] > 0) & (wanted[..., 3] >= task.get("from", 1))
        away = np.abs(found - wanted)[..., :3][both]
        most = max(most, int(away.max(initial=0)))
        square, seen = square + int((away**2).sum()), seen + away.size
        cut = 255 * (wanted[..., 3] >= task["from"]) if "from" in task else wanted[..., 3]
        alpha = max(alpha, int(np.abs(found[..., 3] - cut).max()))
    return {**told, "count": len(pictures), "most": most, "alpha": alpha, "square": square / max(1, seen)}


def near(task):
    """How many pictures a clip has, their rate, and how far they are from stills in the mean, of 255; what is clear in a still is black."""
    import av
    from PIL import Image

    frames = list(av_frames(task["path"], "rgb24"))
    apart = 0
    for at, found in enumerate(frames):
        wanted = np.asarray(Image.open(task["than"] % at).convert("RGB")).astype(np.int64)
        apart += float(np.abs(found.astype(np.int64) - wanted).mean())
    with av.open(task["path"]) as container:
        rate = container.streams.video[0].average_rate
    return {"count": len(frames), "rate": str(rate), "mean": apart / len(frames)}


def sheet(task):
    """How far the frames that lie on a sprite sheet are from stills, laid out by its JSON; whether any two boxes overlap."""
    from pathlib import Path
    from PIL import Image

    told = json.loads(Path(task["path"]).read_text())
    on = np.asarray(Image.open(Path(task["path"]).with_suffix("." + told["picture"])).convert("RGBA")).astype(np.int64)
    most = 0
    boxes = set()
    for at, box in enumerate(told["frames"]):
        x, y, width, height, left, top = (box[name] for name in ("x", "y", "width", "height", "left", "top"))
        boxes.add((x, y, width, height))
        found = np.zeros((told["frame"]["height"], told["frame"]["width"], 4), np.int64)
        found[top : top + height, left : left + width] = on[y : y + height, x : x + width]
        wanted = np.asarray(Image.open(task["than"] % at).convert("RGBA")).astype(np.int64)
        away = np.abs(found - wanted)
        away[..., :3][wanted[..., 3] == 0] = 0
        most = max(most, int(away.max()))
    covered = np.zeros(on.shape[:2], np.int64)
    for x, y, width, height in boxes:
        covered[y : y + height, x : x + width] += 1
    return {"size": [on.shape[1], on.shape[0]], "count": len(told["frames"]), "most": most, "overlap": int(covered.max()) > 1}


def tones(task):
    """A tone a channel: 220 Hz and its multiples, by samples; each quieter than the one before."""
    count, channels = task["count"], task["channels"]
    at = np.arange(count)[:, None] / task["rate"]
    which = np.arange(1, channels + 1)[None, :]
    return 0.5 / which * np.sin(2 * np.pi * 220 * which * at)


def make_sound(task):
    """Tones in a file, by PyAV's encoder of that name; samples as its format wants them."""
    import av

    layout = {1: "mono", 2: "stereo", 6: "5.1", 8: "7.1"}[task["channels"]]
    wave = tones(task)
    form = task["format"]
    kind = {"s16": np.int16, "s32": np.int32, "flt": np.float32}[form.rstrip("p")]
    if kind is not np.float32:
        wave = np.round(wave * (np.iinfo(kind).max if form[:3] == "s16" else 2**31 - 256))
    data = wave.astype(kind)
    with av.open(task["path"], "w") as container:
        stream = container.add_stream(task["codec"], rate=task["rate"], layout=layout)
        stream.codec_context.format = form
        size = 1024
        for at in range(0, len(data), size):
            piece = data[at : at + size]
            rows = piece.T if form.endswith("p") else piece.reshape(1, -1)
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(rows), format=form, layout=layout)
            frame.sample_rate = task["rate"]
            frame.pts = at
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return {}


def make_plain(task):
    """A clip of plain pictures that change, with B-frames where its codec has them, and a tone of its own where it is asked for."""
    import av
    from fractions import Fraction

    with av.open(task["path"], "w") as container:
        stream = container.add_stream(task["codec"], rate=Fraction(task["rate"]))
        stream.width, stream.height = 128, 72
        stream.pix_fmt = "yuv422p10le" if task["codec"] == "prores_ks" else "yuv420p"
        own = container.add_stream(task["own"], rate=48000, layout="mono") if task.get("own") else None
        for at in range(task["count"]):
            data = np.full((72, 128, 3), (at * 7) % 256, np.uint8)
            data[:, (at * 3) % 128] = 255
            container.mux(stream.encode(av.VideoFrame.from_ndarray(data, format="rgb24")))
        container.mux(stream.encode(None))
        if own:
            frame = av.AudioFrame.from_ndarray(np.zeros((1, 48000), np.float32), format="fltp", layout="mono")
            frame.sample_rate = 48000
            container.mux(own.encode(frame))
            container.mux(own.encode(None))
    return {}


def clip_sounds(task):
    """A clip as another library sees it: a digest of its decoded pictures and their times, and of each track what is heard in it."""
    import av
    import hashlib

    told = {"tracks": []}
    with av.open(task["path"]) as container:
        seen = hashlib.sha256()
        frames = list(container.decode(video=0))
        first = frames[0].pts * frames[0].time_base
        for frame in frames:
            seen.update(frame.to_ndarray(format="rgb24").tobytes())
            seen.update(str(round(float(frame.pts * frame.time_base - first), 3)).encode())
        told |= {"pictures": len(frames), "seen": seen.hexdigest()}
        count = len(container.streams.audio)
    for track in range(count):
        with av.open(task["path"]) as container:
            stream = container.streams.audio[track]
            loud = []
            for frame in container.decode(stream):
                data = frame.to_ndarray()
                scale = 1 if data.dtype.kind == "f" else -float(np.iinfo(data.dtype).min)
                loud.append((data.T if frame.format.is_planar else data.reshape(-1, stream.channels)) / scale)
            data = np.abs(np.concatenate(loud)).max(axis=1)
            sounding = np.flatnonzero(data > 0.02)
            told["tracks"].append({"codec": stream.codec_context.name, "count": len(data), "first": int(sounding[0]) if len(sounding) else -1})
    return told


def sound_apart(task):
    """What a file of sound holds, and how far it is from tones that were mixed: the largest and the mean difference."""
    import av

    found = []
    with av.open(task["path"]) as container:
        stream = container.streams.audio[0]
        told = {"codec": stream.codec_context.name, "rate": stream.rate, "channels": stream.channels}
        for frame in container.decode(stream):
            data = frame.to_ndarray()
            scale = 1 if data.dtype.kind == "f" else -float(np.iinfo(data.dtype).min)
            found.append((data.T if frame.format.is_planar else data.reshape(-1, stream.channels)) / scale)
    data = np.concatenate(found)
    told["count"] = len(data)
    wanted = tones({**task, "rate": told["rate"], "count": len(data)}) @ np.array(task["mix"]).T * task.get("factor", 1)
    edge = task.get("edge", 0)
    away = np.abs(data - wanted)[edge : len(data) - edge]
    return {**told, "most": float(away.max()), "mean": float((data - wanted).mean())}


tasks = {"make": make, "make loop": make_loop, "apart": apart, "clip apart": clip_apart, "animation": animation}
tasks |= {"make avif": make_avif, "middle": middle_of, "sheet": sheet, "near": near, "make sound": make_sound, "sound apart": sound_apart}
tasks |= {"make plain": make_plain, "clip sounds": clip_sounds}
print(json.dumps([tasks[task["do"]](task) for task in json.load(sys.stdin)]))
