// The desk's own reader of files. It shares no code with the rest of Shale, on purpose: what it believes is in the file itself.

/** What the desk sees in a file. */
export interface Seen {
  format: 'gif' | 'apng' | 'webp';
  width: number;
  height: number;
  pictures: number;
  /** Of all pictures together. */
  seconds: number;
  /** How often it plays; 0 is for ever. */
  plays: number;
}

/** Looks at a file; nothing where it is none that the desk knows, or not whole. */
export function lookAt(file: Uint8Array): Seen | undefined {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength);
  const text = (at: number, length: number) => String.fromCharCode(...file.subarray(at, at + length));
  try {
    if (text(0, 6) === 'GIF89a' || text(0, 6) === 'GIF87a') return gif(view, text);
    if (text(1, 3) === 'PNG' && file[0] === 0x89) return png(view, text);
    if (text(0, 4) === 'RIFF' && text(8, 4) === 'WEBP') return webp(view, text);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
  }
  return undefined;
}

type Text = (at: number, length: number) => string;

/** GIF89a, sections 18 to 26; the loop is an application's extension. */
function gif(view: DataView, text: Text): Seen | undefined {
  const seen: Seen = {
    format: 'gif',
    width: view.getUint16(6, true),
    height: view.getUint16(8, true),
    pictures: 0,
    seconds: 0,
    plays: 1,
  };
  const colours = (flags: number) => (flags >= 128 ? 3 * 2 ** ((flags % 8) + 1) : 0);
  let at = 13 + colours(view.getUint8(10));
  const skip = () => {
    for (let size = view.getUint8(at); size > 0; size = view.getUint8(at)) at += size + 1;
    at += 1;
  };
  for (;;) {
    const kind = view.getUint8(at);
    if (kind === 0x3b) return seen.pictures > 0 ? seen : undefined;
    if (kind === 0x2c) {
      seen.pictures += 1;
      at += 10 + colours(view.getUint8(at + 9)) + 1;
      skip();
    } else if (kind === 0x21) {
      const label = view.getUint8(at + 1);
      if (label === 0xf9) seen.seconds += view.getUint16(at + 4, true) / 100;
      if (label === 0xff && text(at + 3, 11) === 'NETSCAPE2.0') {
        const times = view.getUint16(at + 16, true);
        seen.plays = times === 0 ? 0 : times + 1;
      }
      at += 2;
      skip();
    } else return undefined;
  }
}

/** PNG, third edition: acTL and fcTL tell of the animation, IEND ends it. */
function png(view: DataView, text: Text): Seen | undefined {
  const seen: Seen = {
    format: 'apng',
    width: view.getUint32(16),
    height: view.getUint32(20),
    pictures: 0,
    seconds: 0,
    plays: 1,
  };
  for (let at = 8; ;) {
    const length = view.getUint32(at);
    const kind = text(at + 4, 4);
    if (kind === 'acTL') seen.plays = view.getUint32(at + 12);
    if (kind === 'fcTL') {
      seen.pictures += 1;
      seen.seconds += view.getUint16(at + 28) / (view.getUint16(at + 30) || 100);
    }
    // The checksum of the last chunk has to be there.
    if (kind === 'IEND') return view.getUint32(at + 8) > 0 && seen.pictures > 0 ? seen : undefined;
    at += length + 12;
  }
}

/** RFC 9649, 2.7: ANIM and ANMF. */
function webp(view: DataView, text: Text): Seen | undefined {
  const end = view.getUint32(4, true) + 8;
  if (end > view.byteLength || text(12, 4) !== 'VP8X') return undefined;
  const three = (at: number) => view.getUint16(at, true) + view.getUint8(at + 2) * 65_536;
  const seen: Seen = { format: 'webp', width: three(24) + 1, height: three(27) + 1, pictures: 0, seconds: 0, plays: 1 };
  for (let at = 12; at + 8 <= end;) {
    const length = view.getUint32(at + 4, true);
    const kind = text(at, 4);
    if (kind === 'ANIM') seen.plays = view.getUint16(at + 12, true);
    if (kind === 'ANMF') {
      seen.pictures += 1;
      seen.seconds += three(at + 20) / 1000;
    }
    at += 8 + length + (length % 2);
  }
  return seen.pictures > 0 ? seen : undefined;
}
