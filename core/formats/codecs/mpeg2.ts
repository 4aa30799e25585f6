import type { CodecRecord } from '../record.ts';
import { namedRates, toldInVideo } from './told.ts';

/** ISO/IEC 13818-2. */
export const mpeg2 = {
  words: 'MPEG-2',
  containers: ['mxf', 'mov'],
  writes: { samples: ['u8'], alpha: false, lossless: false, told: toldInVideo },
  // Its groups of pictures count the time through: pieces (`joins`) would each begin at nought.
  controls: 'rate',
  crf: { start: 3, most: 31, words: 'Quantiser' },
  chroma: ['4:2:2', '4:2:0'],
  aims: true,
  // ISO/IEC 13818-2, table 6-4.
  rates: namedRates,
} as const satisfies CodecRecord;
