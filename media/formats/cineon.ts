import { lacking, refuseAbsurdSize, type StillFormat } from './format.ts';
import { NotRead } from '../notRead.ts';

const magic = 0x802a5fd7;

/** WrittenVideo scans of the older header that DPX grew out of; pictures are not read in this version. */
export const cineon = {
  recognises: (head) => head.length >= 4 && (head.readUInt32BE(0) === magic || head.readUInt32LE(0) === magic),
  header(file) {
    const head = file.need(0, 256);
    const big = head.readUInt32BE(0) === magic;
    const word = (at: number) => (big ? head.readUInt32BE(at) : head.readUInt32LE(at));
    const width = word(200);
    const height = word(204);
    refuseAbsurdSize(width, height);
    const count = head[193]!;
    const bits = head[198]!;
    if (bits !== 8 && bits !== 10) throw new NotRead(`its depth of ${bits} bits is unknown to Shale`);
    const dataAt = word(4);
    const row = bits === 10 ? Math.ceil((width * count) / 3) * 4 : width * count;
    return {
      facts: {
        width,
        height,
        format: 'cin',
        sample: bits === 10 ? 'u10' : 'u8',
        channels: count === 1 ? ['Y'] : ['R', 'G', 'B'],
        hasAlpha: false,
        transfer: 'film-log',
        more: [],
      },
      dataAt: Math.min(dataAt, file.size),
      cutShort: lacking(file.size, dataAt + row * height),
    };
  },
} satisfies StillFormat;
