"""Every kind of still that Shale reads, written by libraries that it does not use, or by plain writers here.

A kind says how its files are made and what they hold. `truth` gives the stored values of a picture by its number,
from what was made; for kinds that lose something, from another library's decoder.
"""

import io
import struct
import zlib

import numpy as np

import pixels
from readers import read_still

KINDS = {}


class Kind:
    def __init__(self, name, ext, write, channels, *, bits=8, floats=None, alpha=None, transfer="srgb", near=0.0, slack=0.0, quick=False):
        self.name, self.ext, self.write, self.channels, self.bits = name, ext, write, channels, bits
        #: numpy's name of its float type, where it holds light
        self.floats = floats
        self.alpha = alpha or ("straight" if channels % 2 == 0 else "none")
        self.transfer = transfer
        #: how far two good decoders may be apart, in values
        self.near = near
        #: how far two customs of spreading its codes over 8 bits are apart, in values
        self.slack = slack
        #: whether the short proof takes it
        self.quick = quick
        KINDS[name] = self

    def made(self, at):
        if self.floats:
            return pixels.lights(self.channels, at).astype(self.floats)
        return pixels.codes(self.channels, self.bits, at).astype(np.uint8 if self.bits <= 8 else np.uint16)

    def make(self, path, at):
        self.write(path, self.made(at))

    def truth(self, path, at):
        if self.near > 0:
            return read_still(path)
        made = self.made(at).astype(np.float64)
        return made if self.floats else made / ((1 << self.bits) - 1)

    def facts(self):
        return {
            **{"name": self.name, "ext": self.ext, "channels": self.channels, "quick": self.quick},
            **{"alpha": self.alpha, "transfer": self.transfer},
        }


def oiio(kind=None, /, **attributes):
    """A writer by OpenImageIO; values stay as they are whatever alpha means."""

    def write(path, values):
        import OpenImageIO as library

        height, width, channels = values.shape
        names = {"float16": "half", "float32": "float"}
        spec = library.ImageSpec(width, height, channels, kind or names.get(str(values.dtype), str(values.dtype)))
        spec.attribute("oiio:UnassociatedAlpha", 1)
        for name, value in attributes.items():
            if name == "tile":
                spec.tile_width = spec.tile_height = value
            elif name == "names":
                spec.channelnames = tuple(value)
            elif name == "BitsPerSample":
                spec.attribute("oiio:BitsPerSample", value)
            else:
                spec.attribute(name.replace("__", ":"), value)
        out = library.ImageOutput.create(path)
        if out is None or not out.open(path, spec) or not out.write_image(values):
            raise SystemExit(f"{path}: {library.geterror() if out is None else out.geterror()}")
        out.close()

    return write


def deep(bits, **attributes):
    """Codes of 10 or 12 bits as OpenImageIO takes them: spread over 16."""
    inner = oiio(BitsPerSample=bits, **attributes)

    def write(path, values):
        wide = values.astype(np.int64)
        inner(path, ((wide * 65535 + ((1 << bits) - 1) // 2) // ((1 << bits) - 1)).astype(np.uint16))

    return write


def pillow(mode=None, /, **options):
    def write(path, values):
        from PIL import Image

        image = Image.fromarray(values[..., 0] if values.shape[-1] == 1 else values)
        (image.convert(mode) if mode else image).save(path, **options)

    return write


def pyav(codec, layout, **options):
    """One picture through a codec of PyAV's libraries."""

    def write(path, values):
        import av

        height, width, _ = values.shape
        context = av.CodecContext.create(codec, "w")
        context.width, context.height, context.pix_fmt, context.time_base = width, height, layout, "1/25"
        context.options = options
        flat = np.ascontiguousarray(values[..., 0] if values.shape[-1] == 1 else values)
        if layout == "ya8":
            frame = av.VideoFrame(width, height, layout)
            rows = np.zeros((height, frame.planes[0].line_size), dtype=np.uint8)
            rows[:, : width * 2] = flat.reshape(height, width * 2)
            frame.planes[0].update(rows.tobytes())
        else:
            frame = av.VideoFrame.from_ndarray(flat, format=layout)
        with open(path, "wb") as file:
            for packet in [*context.encode(frame), *context.encode(None)]:
                file.write(bytes(packet))

    return write


def avif(path, values):
    """A still AVIF by PyAV; its colours are coded as light and differences."""
    import av

    height, width, _ = values.shape
    with av.open(path, "w", format="avif") as out:
        stream = out.add_stream("libaom-av1", rate=1, options={"crf": "4", "cpu-used": "6", "still-picture": "1"})
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv444p"
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(values), format="rgb24").reformat(format="yuv444p")
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            out.mux(packet)


def chunk(name, data):
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def packed(rows, bits):
    """Rows of codes of less than a byte, the first in the high bits (PNG, section 7.2)."""
    lines = []
    for row in rows:
        padded = np.concatenate([row, np.zeros(-len(row) * bits % 8 // bits, dtype=row.dtype)]).astype(np.uint8)
        lines.append(bytes([0]) + np.packbits(np.unpackbits(padded[:, None], axis=1)[:, 8 - bits :]).tobytes())
    return b"".join(lines)


def plain_png(bits, colour, *, interlaced=False, before=b""):
    """PNG by its standard alone: depths below a byte and the interlaced order, which no library here writes."""

    def data(values):
        height, width, channels = values.shape
        if height == 0 or width == 0:
            return b""
        if bits < 8:
            return packed(values[..., 0], bits)
        kind = ">u2" if bits == 16 else "u1"
        return b"".join(bytes([0]) + row.astype(kind).tobytes() for row in values.reshape(height, width * channels))

    def write(path, values):
        height, width, _ = values.shape
        passes = [(0, 0, 8, 8), (4, 0, 8, 8), (0, 4, 4, 8), (2, 0, 4, 4), (0, 2, 2, 4), (1, 0, 2, 2), (0, 1, 1, 2)]
        lines = (
            b"".join(data(values[top::down, left::right]) for left, top, right, down in passes)
            if interlaced
            else data(values)
        )
        head = struct.pack(">IIBBBBB", width, height, bits, colour, 0, 0, 1 if interlaced else 0)
        with open(path, "wb") as file:
            file.write(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + before)
            file.write(chunk(b"IDAT", zlib.compress(lines)) + chunk(b"IEND", b""))

    return write


class Palette(Kind):
    """Codes that stand for colours of a table; what is stored is the colours."""

    def __init__(self, name, ext, write, *, bits, **more):
        super().__init__(name, ext, write, 1, bits=bits, **more)
        self.table = np.random.default_rng(7).integers(0, 256, size=(1 << bits, 3)).astype(np.uint8)

    def make(self, path, at):
        self.write(path, self.made(at), self.table)

    def truth(self, path, at):
        return self.table[self.made(at)[..., 0]].astype(np.float64) / 255


def palette_png(bits):
    def write(path, values, table):
        plain_png(bits, 3, before=chunk(b"PLTE", table.tobytes()))(path, values)

    return write


def palette_pillow(**options):
    def write(path, values, table):
        from PIL import Image

        image = Image.fromarray(values[..., 0], "P")
        image.putpalette(table.tobytes())
        image.save(path, **options)

    return write


def palette_tga(path, values, table):
    """TGA with a colour map (TGA 2.0, image type 1): blue first, the lowest row first."""
    height, width, _ = values.shape
    head = struct.pack("<BBBHHBHHHHBB", 0, 1, 1, 0, len(table), 24, 0, 0, width, height, 8, 0)
    with open(path, "wb") as file:
        file.write(head + table[:, ::-1].tobytes() + values[::-1, :, 0].tobytes())


class Fives(Kind):
    """Colours of five bits each."""

    def truth(self, path, at):
        return self.made(at).astype(np.float64) / 31


def sixteen_tga(path, values):
    """TGA of 16 bits (image type 2): five bits a colour, blue lowest, the top row first."""
    height, width, _ = values.shape
    v = values.astype(np.uint16)
    words = (v[..., 0] << 10) | (v[..., 1] << 5) | v[..., 2]
    head = struct.pack("<BBBHHBHHHHBB", 0, 0, 2, 0, 0, 0, 0, 0, width, height, 16, 0x20)
    with open(path, "wb") as file:
        file.write(head + words.astype("<u2").tobytes())


class Greys(Kind):
    """Grey that its format keeps as colours of a table."""

    def truth(self, path, at):
        return super().truth(path, at).repeat(3, axis=-1)


def deep_bmp(path, values):
    """BMP of 32 bits with a mask for each channel (BITMAPV4HEADER), the lowest row first."""
    height, width, _ = values.shape
    size = width * height * 4
    masks = struct.pack("<4I", 0x00FF0000, 0x0000FF00, 0x000000FF, 0xFF000000)
    head = struct.pack("<IiiHHIIiiII", 108, width, height, 1, 32, 3, size, 2835, 2835, 0, 0) + masks
    head += struct.pack("<I", 0x73524742) + bytes(48)
    with open(path, "wb") as file:
        file.write(struct.pack("<2sIHHI", b"BM", 14 + 108 + size, 0, 0, 14 + 108) + head)
        file.write(values[::-1][..., [2, 1, 0, 3]].tobytes())


def pnm(letter, most, text=False):
    def write(path, values):
        height, width, channels = values.shape
        head = f"{letter}\n# by the proof\n{width} {height}\n{most}\n" if letter not in ("P1", "P4") else f"{letter}\n{width} {height}\n"
        with open(path, "wb") as file:
            file.write(head.encode())
            if text:
                file.write((" ".join(map(str, values.ravel())) + "\n").encode())
            else:
                file.write(values.astype(">u2" if most > 255 else "u1").tobytes())

    return write


def pam(most, kind):
    def write(path, values):
        height, width, depth = values.shape
        head = f"P7\nWIDTH {width}\nHEIGHT {height}\nDEPTH {depth}\nMAXVAL {most}\nTUPLTYPE {kind}\nENDHDR\n"
        with open(path, "wb") as file:
            file.write(head.encode() + values.astype(">u2" if most > 255 else "u1").tobytes())

    return write


def pfm(path, values):
    height, width, channels = values.shape
    with open(path, "wb") as file:
        file.write(f"{'PF' if channels == 3 else 'Pf'}\n{width} {height}\n-1.0\n".encode())
        file.write(values[::-1].astype("<f4").tobytes())


class Two(Kind):
    """Two channels that are neither grey nor alpha: red and green."""

    def truth(self, path, at):
        two = super().truth(path, at)
        return np.concatenate([two, np.zeros_like(two[..., :1])], axis=-1)

    def facts(self):
        return {**super().facts(), "channels": 3}


one = 1 / 255
LAYOUTS = {1: "grey", 2: "grey+alpha", 3: "rgb", 4: "rgba"}

for count, words in LAYOUTS.items():
    for bits in (8, 16):
        Kind(f"png {words} {bits}", "png", oiio(), count, bits=bits, quick=(count, bits) in {(4, 8), (3, 16)})
        Kind(f"tiff {words} {bits}", "tif", oiio(compression="lzw"), count, bits=bits, quick=(count, bits) == (4, 16))
for bits in (1, 2, 4):
    Kind(f"png grey {bits}", "png", plain_png(bits, 0), 1, bits=bits)
    Palette(f"png palette {bits}", "png", palette_png(bits), bits=bits)
Palette("png palette 8", "png", palette_png(8), bits=8, quick=True)
Kind("png interlaced rgb 8", "png", plain_png(8, 2, interlaced=True), 3)
Kind("png interlaced rgba 16", "png", plain_png(16, 6, interlaced=True), 4, bits=16)
Kind("png interlaced grey 2", "png", plain_png(2, 0, interlaced=True), 1, bits=2)

for packing in ("none", "zip", "packbits"):
    Kind(f"tiff rgb 8 {packing}", "tif", oiio(compression=packing), 3, quick=packing == "zip")
    Kind(f"tiff rgba 16 {packing} tiles", "tif", oiio(compression=packing, tile=16), 4, bits=16)
Kind("tiff planes rgb 8", "tif", oiio(compression="lzw", planarconfig="separate"), 3)
Kind("tiff planes rgba 16 tiles", "tif", oiio(compression="zip", planarconfig="separate", tile=16), 4, bits=16)
Kind("tiff half", "tif", oiio(compression="zip"), 3, floats="float16", transfer="linear")
Kind("tiff float", "tif", oiio(compression="lzw"), 3, floats="float32", transfer="linear", quick=True)
Kind("tiff float rgba tiles", "tif", oiio(compression="zip", tile=16), 4, floats="float32", transfer="linear")
Kind("tiff float grey planes", "tif", oiio(compression="none"), 1, floats="float32", transfer="linear")
Kind("tiff zstd rgb", "tif", pillow(compression="zstd"), 3)
Kind("tiff zstd grey", "tif", pillow(compression="zstd"), 1)
Kind("tiff jpeg", "tif", pillow(compression="jpeg"), 3, near=2 * one)
Palette("tiff palette", "tif", palette_pillow(compression="tiff_lzw"), bits=8, slack=one)

Kind("jpeg rgb", "jpg", oiio(), 3, near=2 * one, quick=True)
Kind("jpeg grey", "jpg", oiio(), 1, near=one)
Kind("jpeg 4:2:0 progressive", "jpg", pillow(quality=90, subsampling=2, progressive=True), 3, near=3 * one)

for count in (3, 4):
    Kind(f"tga {LAYOUTS[count]}", "tga", oiio(), count, quick=count == 4)
    Kind(f"tga {LAYOUTS[count]} run lengths", "tga", oiio(compression="rle"), count)
Kind("tga grey", "tga", pillow(), 1)
Palette("tga palette", "tga", palette_tga, bits=8)
Fives("tga 16", "tga", sixteen_tga, 3, bits=5, slack=0.7 / 255)

for packing in ("none", "rle", "zips", "zip", "piz", "pxr24"):
    for kind in ("float16", "float32"):
        near = 1e-4 if packing == "pxr24" and kind == "float32" else 0
        light = {"floats": kind, "transfer": "linear", "alpha": "premultiplied", "near": near}
        Kind(f"exr {packing} {kind}", "exr", oiio(compression=packing), 4, quick=(packing, kind) == ("piz", "float16"), **light)
for packing in ("b44", "b44a", "dwaa:45", "dwab:45"):
    lossy = {"floats": "float16", "transfer": "linear", "near": 1e-4}
    Kind(f"exr {packing} float16", "exr", oiio(compression=packing), 3, **lossy)
Kind("exr tiles", "exr", oiio(compression="zip", tile=16), 4, floats="float16", transfer="linear", alpha="premultiplied")
Kind("exr luminance", "exr", oiio(compression="zip", names=["Y"]), 1, floats="float16", transfer="linear")
Kind("exr luminance alpha", "exr", oiio(compression="zip", names=["Y", "A"]), 2, floats="float32", transfer="linear", alpha="premultiplied")
Kind("exr depth only", "exr", oiio(compression="zip", names=["Z"]), 1, floats="float32", transfer="linear")
Two("exr two channels", "exr", oiio(compression="zip", names=["forward.u", "forward.v"]), 2, floats="float16", transfer="linear", alpha="none")

for bits in (8, 16):
    for count in (1, 3, 4):
        Kind(f"dpx {LAYOUTS[count]} {bits}", "dpx", oiio(), count, bits=bits, transfer="bt709")
Kind("dpx rgb 10", "dpx", deep(10), 3, bits=10, transfer="bt709", quick=True)
Kind("dpx rgba 10", "dpx", deep(10), 4, bits=10, transfer="bt709")
Kind("dpx rgb 12", "dpx", deep(12), 3, bits=12, transfer="bt709")
for count in (1, 3, 4):
    Kind(f"dpx {LAYOUTS[count]} 10 packed", "dpx", deep(10, dpx__Packing="Packed"), count, bits=10, transfer="bt709")
Kind("dpx rgb 12 packed", "dpx", deep(12, dpx__Packing="Packed"), 3, bits=12, transfer="bt709")

Kind("webp rgba", "webp", pillow(lossless=True, exact=True), 4, quick=True)
Kind("webp rgb", "webp", pillow(lossless=True), 3)
Kind("webp lossy", "webp", pillow(quality=90), 3, near=2 * one)
Kind("jxl rgb", "jxl", pyav("libjxl", "rgb24", distance="0"), 3, quick=True)
Kind("jxl rgba", "jxl", pyav("libjxl", "rgba", distance="0"), 4)
Kind("jxl rgb 16", "jxl", pyav("libjxl", "rgb48le", distance="0"), 3, bits=16)
Kind("jxl rgba 16", "jxl", pyav("libjxl", "rgba64le", distance="0"), 4, bits=16)
Kind("jxl grey", "jxl", pyav("libjxl", "gray", distance="0"), 1)
Kind("jxl grey 16", "jxl", pyav("libjxl", "gray16le", distance="0"), 1, bits=16)
Kind("jxl grey+alpha", "jxl", pyav("libjxl", "ya8", distance="0"), 2)

Kind("bmp rgb", "bmp", pillow(), 3, quick=True)
Kind("bmp rgba", "bmp", deep_bmp, 4)
Greys("bmp grey", "bmp", pillow(), 1)
Palette("bmp palette", "bmp", palette_pillow(), bits=8)

Kind("ppm 8", "ppm", pnm("P6", 255), 3, quick=True)
Kind("ppm 16", "ppm", pnm("P6", 65535), 3, bits=16)
Kind("ppm 10", "ppm", pnm("P6", 1023), 3, bits=10)
Kind("ppm text", "ppm", pnm("P3", 255, text=True), 3)
Kind("pgm 8", "pgm", pnm("P5", 255), 1)
Kind("pgm 16 text", "pgm", pnm("P2", 65535, text=True), 1, bits=16)
for count, word in {1: "GRAYSCALE", 2: "GRAYSCALE_ALPHA", 3: "RGB", 4: "RGB_ALPHA"}.items():
    for bits in (8, 16):
        Kind(f"pam {LAYOUTS[count]} {bits}", "pam", pam((1 << bits) - 1, word), count, bits=bits, quick=(count, bits) == (2, 8))
Kind("pfm rgb", "pfm", pfm, 3, floats="float32", transfer="linear", quick=True)
Kind("pfm grey", "pfm", pfm, 1, floats="float32", transfer="linear")

Kind("avif", "avif", avif, 3, near=4 * one, quick=True)
Palette("gif", "gif", palette_pillow(), bits=8, quick=True)
