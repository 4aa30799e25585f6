"""Pictures and the arithmetic that results are held against, worked out here by the standards, in 64-bit floats.

A picture is an array of height x width x channels; its values are what is stored, 0 to 1 for integers.
"""

import numpy as np

#: Odd sizes, so that rows end in the middle of every block, tile and word.
WIDTH, HEIGHT = 53, 31


def codes(channels, bits, at, width=WIDTH, height=HEIGHT):
    """Integer codes: ramps, edges and noise, another picture for every number.

    A third of alpha is 0, full and between, so that every rule for it is met.
    """
    y, x = np.mgrid[0:height, 0:width]
    most = (1 << bits) - 1
    colour = [x * most // max(1, width - 1), y * most // max(1, height - 1), ((x // 4 + y // 4) % 2) * most]
    colour = [(x + 2 * y) * most // (width + 2 * height)] if channels < 3 else colour
    made = np.stack(colour, axis=-1).astype(np.int64)
    noise = np.random.default_rng(1000 + at)
    third = max(1, height // 3)
    made[:third] = noise.integers(0, most + 1, size=made[:third].shape)
    made = np.roll(made, 3 * at, axis=1)
    if channels % 2 == 1:
        return made
    alpha = np.clip((x + y - 12 + at) * most // (width + height - 40), 0, most)
    return np.concatenate([made, alpha[..., None]], axis=-1)


def lights(channels, at, width=WIDTH, height=HEIGHT):
    """Light as floats, from a little below 0 to well above 1, with alpha 0 to 1."""
    made = codes(channels, 16, at, width, height) / 65535
    colours = channels if channels % 2 == 1 else channels - 1
    made[..., :colours] = made[..., :colours] * 1.75 - 0.25
    return made


def decode(values, transfer):
    """Stored values as light: IEC 61966-2-1, ITU-R BT.709 (inverse of its camera curve), powers, linear."""
    v = np.asarray(values, dtype=np.float64)
    a = np.abs(v)
    if transfer == "srgb":
        light = np.where(a <= 0.04045, a / 12.92, ((a + 0.055) / 1.055) ** 2.4)
    elif transfer == "bt709":
        light = np.where(a < 4.5 * 0.018053968510807, a / 4.5, ((a + 0.09929682680944) / 1.09929682680944) ** (1 / 0.45))
    elif transfer.startswith("gamma-"):
        light = a ** float(transfer[6:])
    else:
        light = a
    return np.sign(v) * light


def encode(light, transfer):
    """The inverse of decode."""
    v = np.asarray(light, dtype=np.float64)
    a = np.abs(v)
    if transfer == "srgb":
        value = np.where(a <= 0.0031308, a * 12.92, 1.055 * a ** (1 / 2.4) - 0.055)
    elif transfer == "bt709":
        value = np.where(a < 0.018053968510807, a * 4.5, 1.09929682680944 * a**0.45 - 0.09929682680944)
    elif transfer.startswith("gamma-"):
        value = a ** (1 / float(transfer[6:]))
    else:
        value = a
    return np.sign(v) * value


def wanted(stored, source, write):
    """What a result is to hold, before it is rounded.

    stored: values of the source. source: alpha ('none', 'straight', 'premultiplied') and transfer.
    write: alpha and transfer of the result. Alpha is divided and multiplied in the values of either side.
    """
    stored = np.asarray(stored, dtype=np.float64)
    channels = stored.shape[-1]
    has_alpha = channels % 2 == 0 and source["alpha"] != "none"
    colour = stored[..., :-1] if channels % 2 == 0 else stored
    alpha = stored[..., -1:] if has_alpha else np.ones_like(stored[..., :1])
    is_clear = alpha == 0
    if source["alpha"] == "premultiplied":
        colour = np.where(is_clear, colour, colour / np.where(is_clear, 1, alpha))
    if source["transfer"] != write["transfer"]:
        colour = encode(decode(colour, source["transfer"]), write["transfer"])
    if has_alpha and write["alpha"] != "straight":
        keeps = is_clear & (source["alpha"] == "premultiplied")
        colour = np.where(keeps, colour, colour * alpha)
    return np.concatenate([colour, alpha], axis=-1) if has_alpha and write["alpha"] != "none" else colour
