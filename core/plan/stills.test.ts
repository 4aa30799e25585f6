import { describeSingle } from '../numbering/describe.ts';
import type { Facts } from '../numbering/source.ts';
import { declare, type Word } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import { makePlan } from './make.ts';
import { resultsOf } from './rows.ts';

const facts: Facts = {
  ...{ width: 4, height: 4, format: 'png', sample: 'u16', channels: ['R', 'G', 'B'], hasAlpha: false },
  more: [],
};

describe('a still by itself', () => {
  const write = { format: 'tga', sample: 'u8', alpha: 'none', transfer: 'srgb' } as const;
  const named = (name: string, more: object = {}, word: Word = {}) => {
    const still = {
      ...describeSingle('', 'still', name, 10, 0),
      facts,
    };
    const made = makePlan('museum', still, declare(still, word), parseSpec({ version: 1, write, ...more }));
    return resultsOf(made, 0, made.frames).map(({ to }) => to.split('/').pop());
  };
  test('keeps the number that its name has, and gets none where it has none', () => {
    expect(named('shot.0008.png')).toEqual(['shot.0008.tga']);
    expect(named('shot_12.png')).toEqual(['shot.0012.tga']);
    expect(named('plate_v03.png')).toEqual(['plate_v03.tga']);
    expect(named('photo_20260501.png')).toEqual(['photo_20260501.tga']);
    expect(named('plate.png')).toEqual(['plate.tga']);
  });
  test('is numbered where that is asked for, or where several results come of it', () => {
    expect(named('plate.png', { names: { first: 5 } })).toEqual(['plate.0005.tga']);
    expect(named('shot.0008.png', { names: { first: 5 } })).toEqual(['shot.0005.tga']);
    expect(named('plate.png', {}, { first: 7 })).toEqual(['plate.tga']);
    expect(named('plate.png', { time: { how: 'hold', hold: 2 } })).toEqual(['plate.0000.tga', 'plate.0001.tga']);
  });
});
