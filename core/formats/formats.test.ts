import { fileKind } from '../numbering/kinds.ts';
import { formatRules, formatSchema, isRead, unreadAs } from '../spec/formats.ts';
import { specSchema } from '../spec/schema.ts';
import {
  codecs,
  pictureFormats,
  stills,
  stillWrites,
  usualsOf,
  videoFormats,
  type Format,
  type StillId,
} from './index.ts';
import type { z } from 'zod';
import { receiverNameFields, receiverPictureFields } from '../receiver/fields.ts';
import { videoCase, videoSchema } from '../spec/video.ts';
import { formOf, type Field, type FieldForm } from './field.ts';
import { writeSettings, type WriteSettings } from './settings.ts';
import { videoFields, type VideoCase } from './videoFields.ts';

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

/** What a form may say of a field: every word of it fits its schema. */
function sayable(field: Field, form: FieldForm): unknown[] {
  const start = field.schema.parse(undefined);
  switch (form.kind) {
    case 'choice': {
      const values = Object.keys(form.words).map((text) => (typeof start === 'number' ? Number(text) : text));
      return [...values, ...(form.none === undefined ? [] : [null])];
    }
    case 'several':
      return [null, ...Object.keys(form.words).map((text) => [text])];
    case 'switch':
    case 'mark':
      return [true, false];
    case 'decimal':
      return [form.least, form.most];
    case 'whole':
      return form.none === undefined ? [] : [null];
    case 'floor':
      return [null];
    case 'text':
      return form.nullable ? [null] : [''];
  }
}

const cases = Object.entries(codecs).flatMap(([id, codec]) =>
  (['quality', 'bitrate'] as const).map((control) => {
    const video = videoSchema.parse({ control });
    return [id, codec, videoCase({ format: id as Format, alpha: 'straight' }, video)] as const;
  }),
);

test.each(
  Object.entries({ ...writeSettings, ...receiverNameFields, ...receiverPictureFields } as Record<string, Field>),
)('what the form of %s says fits its schema, and what it begins with is one of them', (_, field) => {
  const form = formOf(field, undefined);
  expect(field.label).not.toBe('');
  for (const value of sayable(field, form)) expect(field.schema.safeParse(value).success).toBe(true);
  const start: unknown = field.schema.parse(undefined);
  if (form.kind === 'choice' && start !== null) expect(form.words).toHaveProperty([String(start)]);
});

test.each(cases)(
  'a video as %s: every field that applies has a label, and says only what its schema takes',
  (_, codec, at) => {
    for (const [name, field] of Object.entries(videoFields) as [string, Field<z.ZodType, VideoCase>][]) {
      if (field.applies && !field.applies(at)) continue;
      const form = formOf(field, at);
      const label = typeof field.label === 'function' ? field.label(at) : field.label;
      expect(label).toMatch(/^[A-Z]/);
      for (const value of sayable(field as unknown as Field, form))
        expect([name, field.schema.safeParse(value).success]).toEqual([name, true]);
    }
    if (codec.controls !== 'rate') expect(videoFields.crf.applies!(at) || videoFields.bitrate.applies!(at)).toBe(false);
  },
);

test.each(videoFormats)('%s: a codec by rate has a quality within its range and nine speeds', (format) => {
  const codec = codecs[format];
  expect(codec.writes.samples.length).toBeGreaterThan(0);
  if (codec.controls === 'profile') expect(codec.profile).toMatch(/\S/);
  if (codec.controls !== 'rate') return;
  expect(codec.crf.start).toBeLessThan(codec.crf.most);
  // MPEG-2's encoder has none.
  if ('presets' in codec) expect(codec.presets).toHaveLength(9);
  else expect(format).toBe('mpeg2');
});

test('what is read follows from the record: its depths, and its compressions where they are told apart', () => {
  const facts = (format: string, sample: string, compression?: string) =>
    ({ format, sample, compression, channels: ['R', 'G', 'B'] }) as never;
  for (const [id, { reads }] of Object.entries(stills) as [StillId, { reads: readonly string[] }][])
    for (const sample of ['u8', 'u10', 'u12', 'u16', 'f16', 'f32'])
      expect([id, sample, isRead(facts(id, sample))]).toEqual([id, sample, reads.includes(sample)]);
  expect(unreadAs(facts('tiff', 'u8', 'lzma'))).toBe('TIFF compressed with lzma');
  expect(unreadAs(facts('exr', 'f16', 'anything'))).toBeUndefined();
  expect(unreadAs({ ...(facts('jpeg', 'u8') as object), channels: ['C', 'M', 'Y', 'K'] } as never)).toBe(
    'JPEG in CMYK',
  );
  expect(unreadAs(facts('nobody', 'u8'))).toBe('NOBODY of 8-bit samples');
});

test('what holds where a file says nothing is the standard’s, and nothing where there is none', () => {
  expect(usualsOf('exr').alpha?.value).toBe('premultiplied');
  expect(usualsOf('png').alpha?.value).toBe('straight');
  expect(usualsOf('vp9').alpha?.value).toBe('straight');
  for (const format of ['tiff', 'tga', 'dpx', 'h264', 'nobody']) expect(usualsOf(format)).toEqual({});
});
