const clear = 256;
const end = 257;
/**
 * How many bytes LZW data stands for, read strictly: it begins with a clear and uses no code that its table does not have yet. A
 * reader that stops once a strip is full does not see how long the rest is; most damage changes the length.
 * @throws Error where it is not so
 */
export function lzwLength(bytes: Uint8Array): number {
  const lengths = new Uint32Array(4096).fill(1, 0, 256);
  let next = 258;
  let width = 9;
  let previous = 0;
  let total = 0;
  let held = 0;
  let bits = 0;
  let hasBegun = false;
  for (let at = 0; ;) {
    while (bits < width && at < bytes.length) {
      held = ((held << 8) | bytes[at]!) & 0xff_ffff;
      bits += 8;
      at += 1;
    }
    // Without an end it is taken as long as it is.
    if (bits < width) return total;
    bits -= width;
    const code = (held >>> bits) & ((1 << width) - 1);
    if (!hasBegun && code !== clear) throw new Error('its LZW data does not begin with a clear');
    hasBegun = true;
    if (code === end) return total;
    if (code === clear) {
      next = 258;
      width = 9;
      previous = 0;
      continue;
    }
    // The code that is being made stands for the string before and its own first byte.
    if (code > next || (code === next && previous === 0))
      throw new Error('its LZW data uses a code that is not made yet');
    const length = code === next ? previous + 1 : lengths[code]!;
    total += length;
    if (previous > 0 && next < 4096) {
      lengths[next] = previous + 1;
      next += 1;
      // One bit longer a code early (TIFF 6.0, section 13).
      if (next === (1 << width) - 1 && width < 12) width += 1;
    }
    previous = length;
  }
}

/** Whether LZW data is of the kind before TIFF 5, low bit first, which is not looked into here. */
export const isOldLzw = (bytes: Uint8Array): boolean => bytes[0] === 0 && (bytes[1]! & 1) === 1;
