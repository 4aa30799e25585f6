import type { ClipFacts } from '../numbering/clipFacts.ts';
import type { Source } from '../numbering/source.ts';
import { declare } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import { specRows } from '../spec/rows.ts';
import { containerOf, soundCodecOf, videoWords } from '../spec/video.ts';
import { parseRate } from '../timing/rate.ts';
import { makePlan } from './make.ts';

const frames: Source = {
  ...{ kind: 'sequence', folder: 'shots', name: 'f.####.png', irregular: [], doubled: [], findings: [] },
  ...{ pattern: { prefix: 'f.', padding: 4, suffix: '.png' }, coverage: [{ first: 1, last: 8, step: 1 }] },
  ...{ files: 8, bytes: 0, modified: 0, weights: [1] },
  facts: {
    ...{ width: 640, height: 360, format: 'png', sample: 'u8', channels: ['R', 'G', 'B'], hasAlpha: false },
    ...{ transfer: 'bt709', primaries: 'bt709', more: [] },
  },
};
const clipFacts: ClipFacts = {
  ...{ codec: 'h264', container: 'mov', pixels: 'yuv420p', turn: 0, fields: 'progressive', start: 0, variable: false },
  ...{ matrix: { value: 'bt709', said: true }, range: { value: 'limited', said: true }, base: { num: 1, den: 1000 } },
  ...{ counted: 'packets', leftOut: 0, keys: 4, longestGroup: 25, most: 10, bytes: 1000, cut: 0, torn: [] },
};
const clip = (streams?: number): Source => ({
  ...frames,
  ...{ kind: 'clip', name: 'plate.mov', pattern: undefined, coverage: [{ first: 0, last: 7, step: 1 }] },
  facts: {
    ...frames.facts!,
    ...{ format: 'h264', rate: { num: 24, den: 1 }, frames: 8, seconds: { num: 1, den: 3 } },
    clip: { ...clipFacts, sound: { codec: 'pcm', rate: 48_000, channels: 1, ...(streams ? { streams } : {}) } },
  },
});

const specOf = (format: string, more: object = {}) =>
  parseSpec({ version: 1, write: { format, sample: 'u8', alpha: 'none', transfer: 'bt709' }, ...more });
const codes = (source: Source, spec: ReturnType<typeof specOf>, rate = '25') =>
  makePlan('museum', source, declare(source, { rate: parseRate(rate) }), spec).problems.map(({ code }) => code);

describe('VC-3 and MPEG-2', () => {
  test.each(['vc3', 'mpeg2'] as const)('%s goes into MXF, or MOV where that is said, with PCM', (format) => {
    const spec = specOf(format);
    expect(containerOf(format, spec.video)).toBe('mxf');
    expect(containerOf(format, { container: 'mov' })).toBe('mov');
    expect(soundCodecOf(format, spec.video, spec.sound)).toBe('pcm');
    expect(codes(frames, spec)).toEqual([]);
  });

  test('rates that their files cannot name are refused, with those that they can', () => {
    expect(codes(frames, specOf('vc3'), '12')).toEqual(['rate-not-held']);
    expect(codes(frames, specOf('vc3'), '24000/1001')).toEqual([]);
    // MOV takes any rate, but MPEG-2 has a code for these alone.
    expect(codes(frames, specOf('vc3', { video: { container: 'mov' } }), '12')).toEqual([]);
    expect(codes(frames, specOf('mpeg2', { video: { container: 'mov' } }), '12')).toEqual(['rate-not-held']);
    const { problems } = makePlan('museum', frames, declare(frames, { rate: { num: 15, den: 1 } }), specOf('mpeg2'));
    expect(problems[0]!.fact).toContain('23.976, 24, 25, 29.97, 30, 50, 59.94, 60');
  });

  test('VC-3 holds no small picture, and shares colour between two pixels of a line', () => {
    const of = (width: number, height: number): Source => ({ ...frames, facts: { ...frames.facts!, width, height } });
    expect(codes(of(254, 360), specOf('vc3'))).toEqual(['size-too-small']);
    expect(codes(of(256, 119), specOf('vc3'))).toEqual(['size-too-small']);
    expect(codes(of(256, 120), specOf('vc3'))).toEqual([]);
    expect(codes(of(257, 121), specOf('vc3'))).toEqual(['odd-size']);
    expect(codes(of(258, 121), specOf('vc3'))).toEqual([]);
  });

  test('the size of MPEG-2 is set by its quantiser, from 1 on', () => {
    expect(videoWords('mpeg2', specOf('mpeg2').video)).toBe('quantiser 3, 4:2:0');
    expect(codes(frames, specOf('mpeg2', { video: { crf: 40 } }))).toEqual(['quality-outside']);
  });
});

describe('streams of sound', () => {
  const beside = (sound: object) => specOf('png', { sound: { beside: true, ...sound } });

  test('are chosen by their number; one that is not there is refused', () => {
    expect(codes(clip(2), beside({ stream: 2 }), '24')).toEqual([]);
    expect(codes(clip(2), beside({ stream: 3 }), '24')).toEqual(['no-such-stream']);
    expect(codes(clip(), beside({ stream: 2 }), '24')).toEqual(['no-such-stream']);
    expect(codes(clip(), specOf('h264', { sound: { stream: 2 }, write: { ...specOf('h264').write } }), '24')).toEqual([
      'no-such-stream',
    ]);
    // Where no sound goes along, nothing is asked of its streams.
    expect(codes(clip(), specOf('png', { sound: { stream: 9 } }), '24')).toEqual([]);
  });

  test('stream and depth are told among what a spec says', () => {
    const rows = new Map(specRows(beside({ stream: 2, depth: '24' })));
    expect(rows.get('Sound')).toBe('the clip’s own, stream 2, AAC, 24-bit, WAV beside stills');
  });
});
