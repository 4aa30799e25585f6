const clear = 256;
const end = 257;
/** The last code before the table is begun anew (TIFF 6.0, section 13). */
const last = 4094;

/** LZW as TIFF has it (TIFF 6.0, section 13): codes of 9 to 12 bits, high bit first, one bit longer a code early. */
export function lzwEncode(bytes: Uint8Array): Buffer {
  const out = Buffer.alloc(Math.ceil(bytes.length * 1.5) + 16);
  let at = 0;
  let held = 0;
  let bits = 0;
  let width = 9;
  const put = (code: number) => {
    held = (held << width) | code;
    bits += width;
    while (bits >= 8) {
      bits -= 8;
      out[at] = (held >>> bits) & 255;
      at += 1;
    }
    held &= (1 << bits) - 1;
  };
  // A string is the code of its beginning and one byte more.
  const codes = new Int16Array(4096 * 256).fill(-1);
  let next = 258;
  let prefix = -1;
  put(clear);
  for (const byte of bytes) {
    if (prefix < 0) {
      prefix = byte;
      continue;
    }
    const known = codes[prefix * 256 + byte]!;
    if (known >= 0) {
      prefix = known;
      continue;
    }
    put(prefix);
    codes[prefix * 256 + byte] = next;
    next += 1;
    if (next > (1 << width) - 1) width += 1;
    if (next > last) {
      put(clear);
      codes.fill(-1);
      next = 258;
      width = 9;
    }
    prefix = byte;
  }
  if (prefix >= 0) {
    put(prefix);
    next += 1;
    if (next > (1 << width) - 1) width += 1;
  }
  put(end);
  if (bits > 0) {
    out[at] = (held << (8 - bits)) & 255;
    at += 1;
  }
  return out.subarray(0, at);
}
