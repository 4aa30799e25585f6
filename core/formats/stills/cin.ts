import type { StillRecord } from '../record.ts';

export const cin = {
  words: 'Cineon',
  endings: ['cin'],
  reads: [],
  usual: {},
  documented: { read: 'the header', written: 'no', colour: '', rate: '', pixelAspect: '', profile: '' },
} as const satisfies StillRecord;
