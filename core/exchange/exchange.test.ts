import fc from 'fast-check';
import type { Source } from '../numbering/source.ts';
import { declare, type Word } from '../spec/declaration.ts';
import { markerColours, type Marker } from '../spec/marker.ts';
import { parseRate } from '../timing/rate.ts';
import { readEdl, writeEdl } from './edl.ts';
import { readMarkerTable, writeMarkerTable } from './markerTable.ts';
import { readOtio, writeOtio } from './otio.ts';
import { listKind, markersFrom } from './toMarkers.ts';
import { shotsFrom } from './toShots.ts';

const sourceOf = (name: string, [first, last]: [number, number], timecode?: string): Source => ({
  kind: 'sequence',
  folder: 'shots',
  name,
  coverage: [{ first, last, step: 1 }],
  irregular: [],
  doubled: [],
  files: 1,
  bytes: 0,
  modified: 0,
  weights: [1],
  findings: [],
  facts: {
    width: 4,
    height: 4,
    format: 'png',
    sample: 'u8',
    channels: ['R', 'G', 'B'],
    hasAlpha: false,
    more: [],
    ...(timecode ? { timecode } : {}),
  },
});
const candidate = (source: Source, word: Word = { rate: parseRate('25') }) => ({
  root: 'museum',
  source,
  declaration: declare(source, word),
});

const edl = `TITLE: yard
FCM: NON-DROP FRAME

001  AX       V     C        00:00:00:10 00:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: yard_cam_a.####.jpg
* LOC: 01:00:00:12 RED     bell | rings twice
002  yard_b   V     D    012 01:00:02:00 01:00:03:00 01:00:01:00 01:00:02:00
003  AX       A     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00
004  gone     V     C        00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00
this is no line of a list
005  yard_b   V     C        00:00:99:00 00:00:01:00 01:00:03:00 01:00:04:00
006  yard_b   V     C        00:00:02:00 00:00:01:00 01:00:03:00 01:00:04:00
`;

test('cuts of an edit list become shots; what cannot is said by its line, and nothing is guessed', () => {
  const among = [
    candidate(sourceOf('yard_cam_a.####.jpg', [1, 60])),
    candidate(sourceOf('yard_b.mov', [0, 99], '01:00:00:00')),
  ];
  const { title, shots, problems } = shotsFrom(edl, 'edl', parseRate('25'), among);
  expect(title).toBe('yard');
  expect(shots).toEqual([
    { source: { root: 'museum', folder: 'shots', name: 'yard_cam_a.####.jpg' }, frames: '11-35' },
    { source: { root: 'museum', folder: 'shots', name: 'yard_b.mov' }, frames: '50-74' },
  ]);
  expect(problems.map(({ code }) => code).sort()).toEqual([
    'edit-line',
    'edit-no-timecode',
    'edit-range',
    'edit-reel-unknown',
    'edit-sound',
    'edit-timecode',
    'edit-transition',
  ]);
  expect(problems.find(({ code }) => code === 'edit-line')!.fact).toContain('Line 10:');
  expect(problems.find(({ code }) => code === 'edit-timecode')!.fact).toContain('00:00:99:00');
  const twice = shotsFrom(edl, 'edl', parseRate('25'), [...among, candidate(sourceOf('yard_cam_a.####.png', [1, 60]))]);
  expect(twice.problems.find(({ fact }) => fact.includes(' or '))!.code).toBe('edit-reel-unknown');
  const short = shotsFrom(edl, 'edl', parseRate('25'), [candidate(sourceOf('yard_cam_a.####.jpg', [1, 20]))]);
  expect(short.problems.find(({ code }) => code === 'edit-outside')!.fact).toContain('11 to 35');
  expect(() => shotsFrom('TITLE: x\n', 'edl', parseRate('25'), [])).not.toThrow();
  expect(shotsFrom('TITLE: x\n', 'edl', parseRate('25'), []).problems[0]!.code).toBe('edit-empty');
});

test('events that stand on each other are told, and a list in drop-frame counts so', () => {
  const list = readEdl(
    '001 A V C 00:00:00:00 00:00:02:00 00:00:00:00 00:00:02:00\n002 B V C 00:00:00:00 00:00:02:00 00:00:01:00 00:00:03:00',
    parseRate('25'),
  );
  expect(list.problems.map(({ code }) => code)).toEqual(['edit-overlap']);
  const drop = readEdl(
    'FCM: DROP FRAME\n001 A V C 00:01:00:02 00:01:00:12 00:00:00:00 00:00:00:10',
    parseRate('29.97'),
  );
  expect(drop.events[0]!.source).toEqual({ from: 1800, to: 1810 });
  const skipped = readEdl(
    'FCM: DROP FRAME\n001 A V C 00:01:00:00 00:01:00:12 00:00:00:00 00:00:00:10',
    parseRate('29.97'),
  );
  expect(skipped.problems[0]!.fact).toContain('skips');
  expect(readEdl('FCM: DROP FRAME\n', parseRate('25')).problems[0]!.code).toBe('edit-rate');
});

describe('what an edit list is made of beside cuts', () => {
  const read = (...lines: string[]) => readEdl(lines.join('\n'), parseRate('25'));
  const codesOf = ({ problems }: ReturnType<typeof read>) => problems.map(({ code, subject }) => [code, subject]);

  test('a dissolve is the shot that it goes to, under its own name; what it comes from has no length and is no fault', () => {
    const list = read(
      '001  A        V     C        00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
      '* FROM CLIP NAME: first',
      '002  A        V     C        00:00:02:00 00:00:02:00 01:00:02:00 01:00:02:00',
      '002  B        V     D    012 00:00:10:00 00:00:13:00 01:00:02:00 01:00:05:00',
      '* FROM CLIP NAME: first',
      '* TO CLIP NAME: second',
    );
    expect(list.events.map(({ reel, clip, source }) => [reel, clip, source.to - source.from])).toEqual([
      ['A', 'first', 50],
      ['B', 'second', 75],
    ]);
    expect(codesOf(list)).toEqual([['edit-transition', 'line 4']]);
  });

  test('sound alone is said once, by the line of the first; small letters are read', () => {
    const list = read(
      '001  a        v     c        00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
      '002  A        A     C        00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
      '003  A        A2    C        00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00',
    );
    expect(list.events).toHaveLength(1);
    expect(codesOf(list)).toEqual([['edit-sound', 'line 2']]);
    expect(list.problems[0]!.fact).toContain('2 events');
  });

  test('a speed that is none is no change; any other is said by its line', () => {
    const event = '001  A        V     C        00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00';
    expect(codesOf(read(event, 'M2   A       025.0                00:00:00:00'))).toEqual([]);
    expect(codesOf(read(event, 'M2   A       -12.5                00:00:00:00'))).toEqual([['edit-speed', 'line 2']]);
  });

  test('a length of the source alone, or of the result alone, is no event', () => {
    const still = '001  A        V     C        00:00:02:00 00:00:02:00 01:00:00:00 01:00:02:00';
    expect(codesOf(read(still))).toEqual([['edit-range', 'line 1']]);
  });
});

describe('what a timeline is made of beside cuts', () => {
  const span = (from: number, length: number) => ({
    start_time: { value: from, rate: 25 },
    duration: { value: length, rate: 25 },
  });
  const clip = (more: object) => ({
    ...{ OTIO_SCHEMA: 'Clip.2', name: 'yard', source_range: span(10, 50) },
    media_reference: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'file:///a/yard%20a.mov' },
    ...more,
  });
  const read = (...children: object[]) =>
    readOtio(
      JSON.stringify({
        OTIO_SCHEMA: 'Timeline.1',
        tracks: { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children }] },
      }),
      parseRate('25'),
    );

  test('frames that a reference numbers are a reel by their pattern, a file by its name', () => {
    const frames = {
      OTIO_SCHEMA: 'ImageSequenceReference.1',
      name_prefix: 'pan.',
      name_suffix: '.exr',
      frame_zero_padding: 4,
    };
    const { events, problems } = read(clip({}), clip({ media_reference: frames }));
    expect(events.map(({ reel }) => reel)).toEqual(['yard a.mov', 'pan.####.exr']);
    expect(problems).toEqual([]);
  });

  test('what is switched off is left out, with its room; a change of speed is said', () => {
    const warp = (scalar: number) => ({ effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: scalar }] });
    const list = read(
      clip({ enabled: false }),
      clip(warp(2)),
      clip(warp(1)),
      clip({ effects: [{ OTIO_SCHEMA: 'FreezeFrame.1' }] }),
    );
    expect(list.events.map(({ record }) => record.from)).toEqual([50, 100, 150]);
    expect(list.problems.map(({ code }) => code)).toEqual(['edit-disabled', 'edit-speed', 'edit-speed']);
    expect(list.problems[1]!.fact).toContain('2 times its speed');
  });

  test('markers of a trimmed clip lie where its range puts them', () => {
    const mark = { OTIO_SCHEMA: 'Marker.2', name: 'bell', marked_range: span(20, 1) };
    expect(read(clip({}), clip({ markers: [mark] })).markers).toMatchObject([{ frame: 60, name: 'bell' }]);
  });
});

const markers = fc.array(
  fc.record<Marker>({
    frame: fc.integer({ min: 0, max: 199 }),
    length: fc.integer({ min: 1, max: 50 }),
    name: fc.stringMatching(/^[A-Za-z][\w ,;"'-]{0,20}\w$/),
    note: fc.stringMatching(/^[A-Za-z][\w ,;"'-]{0,20}\w$/),
    colour: fc.constantFrom(...markerColours),
  }),
  { maxLength: 6 },
);
const shots = [
  { reel: 'yard_cam_a.####.jpg', name: 'yard cam a', from: 10, to: 110 },
  { reel: 'yard_b.mov', name: 'yard_b', from: 90_000, to: 90_100 },
];

test('a written edit list is read again as it was, in both forms, with its markers', () => {
  fc.assert(
    fc.property(markers, fc.constantFrom('24', '25', '29.97', '59.94', '60'), (some, rateText) => {
      const rate = parseRate(rateText);
      const sorted = [...some].sort((a, b) => a.frame - b.frame);
      const read = readEdl(writeEdl('yard', shots, rate, { start: 90_000, markers: sorted }), rate);
      expect(read.problems).toEqual([]);
      expect(read.events.map(({ source, clip }) => [source.from, source.to, clip])).toEqual([
        [10, 110, 'yard cam a'],
        [90_000, 90_100, 'yard_b'],
      ]);
      // An EDL's markers have no length.
      expect(
        read.markers.map(({ frame, name, note, colour }) => ({ frame: frame - 90_000, name, note, colour })),
      ).toEqual(sorted.map(({ frame, name, note, colour }) => ({ frame, name, note, colour })));
      const otio = readOtio(writeOtio('yard', shots, rate, sorted), rate);
      expect(otio.problems).toEqual([]);
      expect(otio.events.map(({ reel, source }) => [reel, source.from, source.to])).toEqual([
        ['yard_cam_a.####.jpg', 10, 110],
        ['yard_b.mov', 90_000, 90_100],
      ]);
      expect(otio.markers.map(({ at: _at, ...marker }) => marker)).toEqual(sorted);
    }),
    { numRuns: 60 },
  );
});

test('a table of markers is read as it was written, and by the heads of other tables', () => {
  fc.assert(
    fc.property(markers, (some) => {
      const text = writeMarkerTable(some, parseRate('25'), { first: 0, start: 0 });
      const { list, by } = readMarkerTable(text, parseRate('25'));
      expect(by).toBe('frame');
      expect(list.markers.map(({ at: _at, ...marker }) => marker)).toEqual(some);
    }),
  );
  const other = readMarkerTable(
    'Marker Name;TC;Comment;Duration\nbell;00:00:01:05;"loud; twice";00:00:00:10\n',
    parseRate('25'),
  );
  expect(other.list.markers).toEqual([
    { at: 'row 2', frame: 30, length: 10, name: 'bell', note: 'loud; twice', colour: 'verdigris' },
  ]);
  const broken = readMarkerTable('frame,length,colour\n12,0,\nx,1,\n14,1,beige\n', null).list;
  expect(broken.markers).toHaveLength(1);
  expect(broken.problems.map(({ subject }) => subject)).toEqual(['row 2', 'row 3', 'row 4']);
  expect(() => readMarkerTable('a,b\n1,2\n', null)).toThrow('No column gives the position');
  expect(() => readMarkerTable('tc,name\n00:00:01:00,x\n', null)).toThrow('at which rate');
  expect(
    writeMarkerTable([{ frame: 1, length: 1, name: '=cmd()', note: '', colour: 'plum' }], null, { first: 0, start: 0 }),
  ).toContain("'=cmd()");
});

test('markers come onto a source by its numbers, its timecode or its beginning, and those outside are told', () => {
  const source = sourceOf('yard_b.mov', [1001, 1100], '01:00:00:00');
  const declaration = declare(source, { rate: parseRate('25') });
  const list = '* LOC: 01:00:00:12 RED bell\n* LOC: 01:00:09:00 BLUE late\n';
  const found = markersFrom(list, 'edl', source, declaration);
  expect(found.anchor).toBe('timecode');
  expect(found.markers).toEqual([{ frame: 1013, length: 1, name: 'bell', note: '', colour: 'cinnabar' }]);
  expect(found.problems.map(({ code }) => code)).toEqual(['marker-outside']);
  const table = markersFrom('frame,length\n1090,30\n', 'csv', source, declaration);
  expect(table.markers[0]).toMatchObject({ frame: 1090, length: 11 });
  const bare = { ...source, facts: { ...source.facts!, timecode: undefined } };
  const edited = '001 A V C 00:00:00:00 00:00:04:00 01:00:00:00 01:00:04:00\n* LOC: 01:00:00:12 RED bell\n';
  expect(markersFrom(edited, 'edl', bare, declaration).markers[0]!.frame).toBe(1013);
  expect(markersFrom(list, 'edl', source, declare(source)).problems[0]!.code).toBe('rate-not-declared');
  expect(markersFrom('', 'edl', source, declaration).problems[0]!.code).toBe('edit-empty');
  expect(['a.EDL', 'b.otio', 'c.csv', 'd.png'].map(listKind)).toEqual(['edl', 'otio', 'csv', undefined]);
});

test('what is no timeline is refused, and what a timeline has that is not read is told', () => {
  const rate = parseRate('24');
  expect(() => readOtio('{', rate)).toThrow('not JSON');
  expect(() => readOtio('{}', rate)).toThrow('OTIO_SCHEMA');
  expect(() => readOtio('{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[]}}', rate)).toThrow(
    'no track',
  );
  const range = (value: number, length: number, of = 24) => ({
    start_time: { value, rate: of },
    duration: { value: length, rate: of },
  });
  const track = {
    OTIO_SCHEMA: 'Track.1',
    children: [
      { OTIO_SCHEMA: 'Gap.1', source_range: range(0, 10) },
      {
        OTIO_SCHEMA: 'Clip.1',
        name: 'a',
        source_range: range(0, 24),
        media_reference: { target_url: 'file:///x/bell%20turn.mov' },
        markers: [{ name: 'in', marked_range: range(6, 1) }, {}],
      },
      { OTIO_SCHEMA: 'Transition.1' },
      { OTIO_SCHEMA: 'Clip.1', name: 'b', source_range: range(0, 25, 25) },
      { OTIO_SCHEMA: 'Stack.1', source_range: range(0, 5) },
      { OTIO_SCHEMA: 'Clip.1', name: 'c' },
    ],
  };
  const list = readOtio(JSON.stringify(track), rate);
  expect(list.events.map(({ reel, record }) => [reel, record.from, record.to])).toEqual([
    ['bell turn.mov', 10, 34],
    ['b', 34, 58],
  ]);
  expect(list.markers.map(({ frame }) => frame)).toEqual([16]);
  expect(list.problems.map(({ code }) => code)).toEqual([
    'edit-gap',
    'edit-line',
    'edit-transition',
    'edit-line',
    'edit-line',
  ]);
});
