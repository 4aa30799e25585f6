# What a technician would script over OpenImageIO, two pictures at a time, or over PyAV in one process; nothing is checked.
# scripted.py pictures FROM TO ENDING TYPE [straight-srgb | premultiplied-linear]; scripted.py frames CLIP TO LEVEL; scripted.py clip FROM FILE
import os
import sys
from concurrent.futures import ThreadPoolExecutor


def pictures(source, target, ending, kind, turns=None):
    import OpenImageIO as oiio

    oiio.attribute("threads", 1)
    types = {"u8": oiio.UINT8, "u16": oiio.UINT16, "f16": oiio.HALF}

    def one(name):
        picture = oiio.ImageBuf(os.path.join(source, name))
        if turns is not None:
            picture.read(0, 0, True, oiio.FLOAT)
            if turns == "straight-srgb":
                if picture.nchannels == 4:
                    picture = oiio.ImageBufAlgo.unpremult(picture)
                picture = oiio.ImageBufAlgo.colorconvert(picture, "linear", "sRGB")
            else:
                picture = oiio.ImageBufAlgo.colorconvert(picture, "sRGB", "linear")
                if picture.nchannels == 4:
                    picture = oiio.ImageBufAlgo.premult(picture)
        if ending == "exr":
            picture.specmod().attribute("compression", "dwaa:45")
        if not picture.write(os.path.join(target, os.path.splitext(name)[0] + "." + ending), types[kind]):
            raise SystemExit(picture.geterror())

    with ThreadPoolExecutor(2) as lanes:
        list(lanes.map(one, sorted(os.listdir(source))))


def frames(clip, target, level):
    import av

    opened = av.open(clip)
    opened.streams.video[0].thread_type = "AUTO"
    for at, frame in enumerate(opened.decode(video=0)):
        frame.to_image().save(os.path.join(target, f"f.{at:04d}.png"), compress_level=int(level))


def clip(source, target):
    import av
    from PIL import Image

    out = av.open(target, "w")
    stream = None
    for name in sorted(os.listdir(source)):
        picture = Image.open(os.path.join(source, name)).convert("RGB")
        if stream is None:
            stream = out.add_stream("libx264", rate=24)
            stream.width, stream.height = picture.size
            stream.pix_fmt = "yuv420p"
            stream.options = {"crf": "18", "preset": "medium"}
        for packet in stream.encode(av.VideoFrame.from_image(picture)):
            out.mux(packet)
    for packet in stream.encode():
        out.mux(packet)
    out.close()


{"pictures": pictures, "frames": frames, "clip": clip}[sys.argv[1]](*sys.argv[2:])
