import { isVideoFormat } from '../formats/index.ts';
import { formatRules } from './formats.ts';
import { parseSpec } from './parse.ts';
import { alsoWrite, startingPoints, type StartingPointName } from './starts.ts';

const names = Object.keys(startingPoints) as StartingPointName[];
const clear = parseSpec({ version: 1, write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' } });
const float = parseSpec({
  version: 1,
  write: { format: 'exr', sample: 'f32', alpha: 'premultiplied', transfer: 'linear' },
  frames: '1-9',
});

test.each(names)('%s is a spec that its format holds, of any other', (name) => {
  for (const before of [clear, float]) {
    const spec = parseSpec(startingPoints[name].of(before));
    const rules = formatRules[spec.write.format];
    expect(rules.samples).toContain(spec.write.sample);
    expect(rules.alpha || !['straight', 'premultiplied'].includes(spec.write.alpha)).toBe(true);
    expect(spec.frames).toBe(before.frames);
  }
});

test('alpha stays where what it is for keeps it, a review loses it', () => {
  const alpha = (name: StartingPointName) => startingPoints[name].of(clear).write.alpha;
  expect(names.map(alpha)).toEqual([
    'none',
    'straight',
    'straight',
    'premultiplied',
    'straight',
    'straight',
    'straight',
    'straight',
  ]);
  expect(startingPoints.review.of(float).write).toMatchObject({ format: 'h264', transfer: 'bt709', alpha: 'none' });
});

test('an output beside others writes no name that they write', () => {
  expect(alsoWrite('review', clear, [clear]).into.folder).toBeNull();
  const half = alsoWrite('half', clear, [clear]);
  expect(half.into.folder).toBe('{stem}/half');
  expect(alsoWrite('quarter', clear, [clear, half]).into.folder).toBe('{stem}/quarter');
  const review = startingPoints.review.of(clear);
  expect(isVideoFormat(review.write.format)).toBe(true);
  expect(alsoWrite('review', clear, [clear, review]).into.folder).toBe('{stem}/review');
});
