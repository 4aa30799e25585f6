import { enterReadings, noReadings, type FrameReadings } from './columns.ts';
import { besideEachOther, describeFolder, findingsOf, type Described, type Evidence } from './describe.ts';
import { printCoverage } from './ranges.ts';
import type { Facts, Finding, Source } from './source.ts';
import { withOlderVersions } from './versions.ts';

const hour = 3_600_000;
const now = Date.UTC(2026, 10, 24, 12);

interface File {
  name: string;
  bytes?: number;
  modified?: number;
}

const listed = (files: (File | string)[]): Described[] => {
  const all = files.map((file) => (typeof file === 'string' ? { name: file } : file));
  return describeFolder('shots', {
    names: all.map(({ name }) => name),
    bytes: all.map(({ bytes = 100 }) => bytes),
    modified: all.map(({ modified = now - 5 * hour }) => modified),
  }).sequences;
};

const numbered = (count: number, file: (frame: number) => Partial<File> = () => ({})): File[] =>
  Array.from({ length: count }, (_, at) => ({ name: `a.${String(at + 1).padStart(4, '0')}.png`, ...file(at + 1) }));

const judged = (described: Described, more: Partial<Evidence> = {}): Finding[] =>
  findingsOf(described.source, { columns: described.columns, moment: { now, quiet: 15_000 }, ...more });
const codes = (files: (File | string)[]): string[] =>
  listed(files).flatMap((one) => judged(one).map(({ code }) => code));
const only = (files: (File | string)[], code: string): Finding | undefined =>
  listed(files)
    .flatMap((one) => judged(one))
    .find((finding) => finding.code === code);
const framesIn = (finding: Finding | undefined): string => printCoverage(finding?.frames ?? []);

const facts = (more: Partial<Facts> = {}): Facts => ({
  width: 320,
  height: 180,
  format: 'png',
  sample: 'u8',
  channels: ['R', 'G', 'B', 'A'],
  hasAlpha: true,
  more: [],
  ...more,
});

/** Readings in which each place has the facts and content that a function gives. */
function readingsOf(
  count: number,
  of: (place: number) => { facts?: Facts; content?: number; problem?: string },
): FrameReadings {
  const all = noReadings(count);
  for (let place = 0; place < count; place += 1) {
    const { facts: said, content = place + 1, problem } = of(place);
    const one = noReadings(1);
    one.kind[0] = said ? 0 : -1;
    if (said) one.kinds.push(said);
    one.picture[0] = 90;
    one.content[0] = content;
    if (problem) one.problems.push({ at: 0, code: problem, fact: `Place ${place} is wrong.`, wayOut: 'Mend it.' });
    enterReadings(all, [place], one);
  }
  return all;
}

describe('findings of names', () => {
  test.each([
    [['a.1.png', 'a.2.png', 'a.4.png'], ['missing-frames']],
    [['a.9.png', 'a.10.png'], ['listing-order']],
    [['a.09.png', 'a.10.png'], []],
    [['a.01.png', 'a.02.png', 'a.2.png', 'a.03.png'], ['duplicate-number']],
    [['a.01.png', 'a.02.png', 'a.3.png', 'a.04.png'], ['mixed-padding']],
    [['a.1.png', 'a.2.png', 'a.3.PNG'], ['mixed-names']],
    [['a.1.png', 'a.2.png', { name: 'a.3.png', bytes: 0 }], ['empty-file']],
    [['a.00.png', 'a.04.png', 'a.08.png'], []],
  ])('%j', (files, wanted) => expect(codes(files)).toEqual(wanted));

  test('weights are the mean bytes of each part, at most 1,024 parts, whatever the count', () => {
    const names = Array.from({ length: 100_000 }, (_, at) => `a.${at}.png`);
    const [{ source }] = describeFolder('', {
      names,
      bytes: names.map((_, at) => (at < 50_000 ? 10 : 30)),
      modified: names.map(() => 0),
    }).sequences as [Described];
    expect(source.weights).toHaveLength(1024);
    expect([source.weights[0], source.weights[1023]]).toEqual([10, 30]);
    expect(JSON.stringify(source).length).toBeLessThan(8000);
  });
});

describe('findings of sizes and times', () => {
  test('one light frame stands out, a picture that shrinks does not', () => {
    const noise = (frame: number) => 1000 + ((frame * 37) % 90);
    const black = numbered(40, (frame) => ({ bytes: frame === 21 ? 200 : noise(frame) }));
    expect(framesIn(only(black, 'size-outlier'))).toBe('21');
    const run = numbered(40, (frame) => ({ bytes: frame >= 21 && frame <= 23 ? 5000 : noise(frame) }));
    expect(framesIn(only(run, 'size-outlier'))).toBe('21-23');
    const turning = numbered(48, (frame) => ({
      bytes: Math.round(12_000 + 10_000 * Math.cos((frame / 48) * 2 * Math.PI)),
    }));
    expect(codes(turning)).toEqual([]);
    const cut = numbered(40, (frame) => ({ bytes: frame > 20 ? 4 * noise(frame) : noise(frame) }));
    expect(codes(cut)).toEqual([]);
    const wild = numbered(40, (frame) => ({ bytes: 100 + ((frame * 7919) % 13) * 400 }));
    expect(codes(wild)).toEqual([]);
  });

  test('frames of an older render are told, a slow render and a pause are not', () => {
    const render = (frame: number) => now - 100 * hour + frame * 60_000;
    const older = numbered(80, (frame) => ({
      modified: frame >= 51 && frame <= 54 ? render(frame) - 9 * 24 * hour : render(frame),
    }));
    expect(only(older, 'stale-frames')).toMatchObject({
      short: '4 frames 9 days older',
      frames: [{ first: 51, last: 54, step: 1 }],
    });
    const newer = numbered(80, (frame) => ({ modified: frame === 7 ? render(frame) + 50 * hour : render(frame) }));
    expect(only(newer, 'stale-frames')!.short).toMatch(/^1 frame \d+ (hours|days) newer$/);
    expect(codes(numbered(30, (frame) => ({ modified: now - 300 * hour + frame * 3 * hour })))).toEqual([]);
    expect(codes(numbered(40, (frame) => ({ modified: render(frame) + (frame > 20 ? 14 * hour : 0) })))).toEqual([]);
  });

  test('a file that changed just now may still be written, and is not called cut short', () => {
    const [one] = listed(numbered(4, (frame) => ({ modified: now - (frame === 4 ? 3000 : 60_000) })));
    const readings = readingsOf(4, (place) => (place === 3 ? { problem: 'truncated-file' } : { facts: facts() }));
    expect(judged(one!, { readings }).map(({ code }) => code)).toEqual(['still-writing']);
    expect(judged(one!, { readings, moment: { now: now + hour, quiet: 15_000 } }).map(({ code }) => code)).toEqual([
      'truncated-file',
    ]);
    // What is quiet is set by the operator: a renderer that takes minutes a frame, a copy that takes none.
    const [short, long] = [2000, 120_000].map((quiet) => judged(one!, { moment: { now, quiet } }));
    expect(short).toEqual([]);
    expect(long!.map(({ sentence }) => sentence)).toEqual([
      expect.stringContaining('less than 120 seconds before the scan'),
    ]);
  });
});

describe('findings of contents', () => {
  const [eight] = listed(numbered(8));
  const tell = (of: Parameters<typeof readingsOf>[1], more: Partial<Evidence> = {}) =>
    judged(eight!, { readings: readingsOf(8, of), ...more }).map(
      ({ code, short, frames }) => `${code} ${frames ? printCoverage(frames) : ''}: ${short}`,
    );

  test('what differs from most', () => {
    expect(tell((place) => ({ facts: facts(place === 2 ? { width: 360, height: 200 } : {}) }))).toEqual([
      'mixed-size 3: Frame 3 is 360 x 200',
    ]);
    expect(tell((place) => ({ facts: facts(place > 5 ? { sample: 'u16' } : {}) }))).toEqual([
      'mixed-depth 7-8: Mixed bit depths',
    ]);
    expect(tell((place) => ({ facts: facts(place === 0 ? { format: 'jpeg' } : {}) }))).toEqual([
      'mixed-format 1: Frame 1 is JPEG',
    ]);
    expect(
      tell((place) => ({ facts: facts(place === 0 ? { channels: ['R', 'G', 'B'], hasAlpha: false } : {}) })),
    ).toEqual(['mixed-channels 1: Frame 1 is R G B']);
    // A timecode is each frame's own and no mixture.
    expect(tell((place) => ({ facts: facts({ timecode: `01:00:00:0${place}` }) }))).toEqual([]);
  });

  test('what cannot be read, one finding for each reason', () => {
    const broken: Record<number, string> = { 1: 'truncated-file', 4: 'truncated-file', 6: 'damaged-file' };
    expect(tell((place) => (broken[place] ? { problem: broken[place] } : { facts: facts() }))).toEqual([
      'truncated-file 2,5: Frames 2, 5 cut short',
      'damaged-file 7: Frame 7 damaged',
    ]);
  });

  test('repeats: a frozen render, twos and threes, one picture throughout', () => {
    const content = (list: number[]) => tell((place) => ({ facts: facts(), content: list[place]! }));
    expect(content([1, 2, 3, 3, 3, 4, 5, 6])).toEqual(['repeated-frames 4-5: Frames 4-5 repeat']);
    expect(content([1, 1, 2, 2, 3, 3, 4, 4])).toEqual(['repeated-frames : On twos']);
    expect(content([1, 2, 2, 2, 3, 3, 3, 4])).toEqual(['repeated-frames : On threes']);
    expect(content([9, 9, 9, 9, 9, 9, 9, 9])).toEqual(['repeated-frames : One picture throughout']);
    expect(content([1, 2, 1, 2, 1, 2, 1, 2])).toEqual([]);
  });

  test('what was compared byte for byte goes before what samples say', () => {
    const readings = readingsOf(8, () => ({ facts: facts(), content: 5 }));
    const found = judged(eight!, { readings, alike: { places: [3], sure: true } });
    expect(found).toMatchObject([{ code: 'repeated-frames', frames: [{ first: 4, last: 4, step: 1 }] }]);
    expect(judged(eight!, { readings })[0]!.sentence).toMatch(/Judged by samples of the files\.$/);
  });
});

describe('what lies beside', () => {
  const sources = (files: (File | string)[]): Source[] =>
    besideEachOther(listed(files).map((one) => ({ ...one.source, findings: judged(one) })));
  const strays = (files: (File | string)[]) =>
    sources(files).flatMap(({ name, findings }) =>
      findings
        .filter(({ code }) => code === 'stray-files')
        .map(({ severity, short }) => `${name} ${severity} ${short}`),
    );
  const named = (stem: string, frames: number[]) =>
    frames.map((frame) => `${stem}.${String(frame).padStart(4, '0')}.png`);

  test('drafts and leftovers among the finals, not passes of their own', () => {
    expect(strays([...named('loop', [0, 1, 2, 3, 4]), ...named('draft_loop', [0, 2, 4])])).toEqual([
      'draft_loop.####.png note Mixed in with loop.####.png',
      'loop.####.png doubt 3 drafts lie beside it',
    ]);
    expect(strays([...named('loop', [0, 1, 2]), ...named('loop_old', [0, 1, 2])])).toHaveLength(2);
    expect(strays([...named('loop', [0, 1, 2]), ...named('loop_matte', [0, 1, 2])])).toEqual([]);
    expect(strays([...named('loop', [0, 1, 2]), ...named('loop_matte', [1, 2])])[0]).toContain('stray');
    expect(strays([...named('loop', [0, 1, 2]), ...named('draft_loop', [7, 8])])).toEqual([]);
  });

  test('the newest version is the one, others say so; folders have versions too', () => {
    const all = withOlderVersions([
      ...sources([...named('pan_v01', [1, 2]), ...named('pan_v2', [1, 2]), ...named('pan_v10', [1, 2])]),
      ...['cut/v01', 'cut/v02'].flatMap((folder) =>
        describeFolder(folder, { names: ['x.1.png', 'x.2.png'], bytes: [1, 1], modified: [0, 0] }).sequences.map(
          ({ source }) => source,
        ),
      ),
    ]);
    const older = all.filter(({ findings }) => findings.some(({ code }) => code === 'older-version'));
    expect(older.map(({ folder, name }) => `${folder} ${name}`)).toEqual([
      'shots pan_v01.####.png',
      'shots pan_v2.####.png',
      'cut/v01 x.#.png',
    ]);
    // Once the newer one is gone, nothing is older any more.
    expect(withOlderVersions([older[2]!])[0]!.findings).toEqual([]);
  });
});
