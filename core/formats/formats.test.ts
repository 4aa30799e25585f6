import { fileKind } from '../numbering/kinds.ts';
import { formatRules, formatSchema, isRead, unreadAs } from '../spec/formats.ts';
import { specSchema } from '../spec/schema.ts';
import { codecs, pictureFormats, stills, stillWrites, usualsOf, videoFormats, type StillId } from './index.ts';
import { settingSchemas, writeSettings, type WriteSettings } from './settings.ts';

/** Every setting as it begins. */
const start = specSchema.parse({
  version: 1,
  write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' },
}).write as WriteSettings;

test('no two still formats share an ending, and every ending is known for a picture', () => {
  const endings = Object.values(stills).flatMap((still): readonly string[] => still.endings);
  expect(new Set(endings).size).toBe(endings.length);
  for (const ending of endings) {
    expect(fileKind(`pan.0001.${ending}`)).toBe('picture');
    expect(fileKind(`pan.0001.${ending.toUpperCase()}`)).toBe('picture');
  }
});

test('formats are offered in one order, stills first, and each is of the spec', () => {
  expect(formatSchema.options).toEqual([...pictureFormats, ...videoFormats]);
  expect(Object.keys(formatRules)).toEqual(formatSchema.options);
});

test.each(pictureFormats)('%s: its settings are fields of a spec, and it says its compression', (format) => {
  const { settings, compression, samples, lossless, lossy } = stillWrites(format);
  for (const write of [start, { ...start, lossless: false, exrCompression: 'DWAA' as const }]) {
    for (const name of settings?.(write) ?? []) expect(writeSettings).toHaveProperty(name);
    expect(compression(write)).toMatch(/\S/);
  }
  expect(samples.length).toBeGreaterThan(0);
  // What is lossless as it begins says no loss; what cannot be says one.
  expect(lossy?.(start) === undefined).toBe(lossless);
});

test.each(Object.entries(writeSettings))(
  'setting %s: what its form offers fits its schema, and begins within',
  (name, { form }) => {
    const schema = settingSchemas[name as keyof typeof settingSchemas];
    const begins = schema.parse(undefined);
    const offered =
      form.kind === 'choice'
        ? Object.keys(form.words).map((one) => (typeof begins === 'number' ? Number(one) : one))
        : form.kind === 'switch'
          ? [true, false]
          : [form.least, form.most];
    for (const one of offered) expect(schema.safeParse(one).success).toBe(true);
    if (form.kind === 'choice') expect(offered).toContain(begins);
    if (form.kind === 'whole' || form.kind === 'decimal') {
      expect(schema.safeParse(form.most + 1).success).toBe(false);
      expect(schema.safeParse(form.least - 1).success).toBe(false);
    }
  },
);

test.each(videoFormats)('%s: a codec by rate has a quality within its range and nine speeds', (format) => {
  const codec = codecs[format];
  expect(codec.writes.samples.length).toBeGreaterThan(0);
  if (codec.controls === 'profile') expect(codec.profile).toMatch(/\S/);
  if (codec.controls !== 'rate') return;
  expect(codec.crf.start).toBeLessThan(codec.crf.most);
  expect(codec.presets).toHaveLength(9);
});

test('what is read follows from the record: its depths, and its compressions where they are told apart', () => {
  const facts = (format: string, sample: string, compression?: string) => ({ format, sample, compression }) as never;
  for (const [id, { reads }] of Object.entries(stills) as [StillId, { reads: readonly string[] }][])
    for (const sample of ['u8', 'u10', 'u12', 'u16', 'f16', 'f32'])
      expect([id, sample, isRead(facts(id, sample))]).toEqual([id, sample, reads.includes(sample)]);
  expect(unreadAs(facts('tiff', 'u8', 'lzma'))).toBe('TIFF compressed with lzma');
  expect(unreadAs(facts('exr', 'f16', 'anything'))).toBeUndefined();
  expect(unreadAs(facts('nobody', 'u8'))).toBe('NOBODY of 8-bit samples');
});

test('what holds where a file says nothing is the standard’s, and nothing where there is none', () => {
  expect(usualsOf('exr').alpha?.value).toBe('premultiplied');
  expect(usualsOf('png').alpha?.value).toBe('straight');
  expect(usualsOf('vp9').alpha?.value).toBe('straight');
  for (const format of ['tiff', 'tga', 'dpx', 'h264', 'nobody']) expect(usualsOf(format)).toEqual({});
});
