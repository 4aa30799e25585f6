import { writeFile } from 'node:fs/promises';
import { Codec } from 'node-av';
import { AV_CODEC_ID_TARGA, AV_PIX_FMT_BGR24, AV_PIX_FMT_BGRA, AV_PIX_FMT_GRAY8 } from 'node-av/constants';
import { withBytes } from '../room.ts';
import { encodePacket } from '../video/libav.ts';
import { lacking, refuseAbsurdSize, type StillFormat, type StillHeader } from './format.ts';
import type { HeaderFile } from './headerFile.ts';
import { pixelAddon } from '../pixels/addon.ts';
import { readTga, tgaHead } from './tgaFile.ts';

/** The last 18 bytes of a file of version 2 (Truevision TGA 2.0, C.6). */
const footer = 'TRUEVISION-XFILE.\0';

function header(file: HeaderFile): StillHeader {
  const { kind, width, height, bits, shownBits, hasAlpha, dataAt, packed } = tgaHead(file.need(0, 18));
  refuseAbsurdSize(width, height);
  // Packed data of a file without a footer says nowhere how long it is; only decoding tells whether it is whole.
  const hasFooter = file.read(file.size - 18, 18).toString('latin1') === footer;
  const colours = kind === 'grey' ? ['Y'] : ['R', 'G', 'B'];
  return {
    facts: {
      width,
      height,
      format: 'tga',
      sample: 'u8',
      channels: hasAlpha ? [...colours, 'A'] : colours,
      hasAlpha,
      compression: packed ? 'RLE' : 'none',
      more: [
        ...(kind === 'palette' ? [['Colours', 'a palette'] as [string, string]] : []),
        ...(shownBits <= 16 && kind !== 'grey' ? [['Depth', '5 bits a colour'] as [string, string]] : []),
      ],
    },
    dataAt,
    cutShort: hasFooter ? undefined : lacking(file.size, dataAt + (packed ? 1 : width * height * Math.ceil(bits / 8))),
  };
}

/** TGA, read by {@link readTga}, written run-length coded through libav. */
export const tga = {
  recognises: (_head, name) => /\.tga$/i.test(name),
  header,
  read: (path) => withBytes(path, readTga),
  async write(path, image) {
    const encoder = Codec.findEncoder(AV_CODEC_ID_TARGA)!;
    const { width, height } = image;
    const { channels } = image;
    const bytes = Buffer.from(image.data as Uint8Array);
    if (channels > 2) pixelAddon.swapRedBlue(bytes, channels, bytes);
    const format = channels === 1 ? AV_PIX_FMT_GRAY8 : channels === 3 ? AV_PIX_FMT_BGR24 : AV_PIX_FMT_BGRA;
    await writeFile(path, await encodePacket(encoder, { width, height, format, bytes }), { flag: 'wx' });
  },
} satisfies StillFormat;
