import { codecRecord, formatWords, type Format } from '../../formats/index.ts';
import { sampleWords } from '../../pixels/image.ts';
import { mostAcross, padSchema, resizeSchema } from '../../pixels/picture.ts';
import { transferSchema } from '../../pixels/colourNames.ts';
import { alphaWords, transferWords } from '../../spec/declaration.ts';
import { formatRules, formatSchema } from '../../spec/formats.ts';
import { withFormat } from '../../spec/parse.ts';
import type { Spec } from '../../spec/schema.ts';
import { printRate, printSeconds } from '../../timing/rate.ts';
import { exactBytes, orWords, plural, printBytes } from '../../words.ts';

import type { Held } from '../held.ts';
import type { Receiver } from '../receiver.ts';
import type { Converting, Rule } from './rule.ts';

const withWrite = ({ spec, stem }: Converting, change: Partial<Spec['write']>): Converting => ({
  spec: { ...spec, write: { ...spec.write, ...change } },
  stem,
});

const withPicture = ({ spec, stem }: Converting, change: Partial<Spec['picture']>): Converting => ({
  spec: { ...spec, picture: { ...spec.picture, ...change } },
  stem,
});

/** The first format of a receiver that this version writes. */
const writable = ({ formats: some }: Receiver) => formatSchema.options.find((format) => some?.includes(format));

/** A depth that a receiver takes and the format holds. */
function withDepth(converting: Converting, { samples: some }: Receiver): Converting {
  const { format, sample } = converting.spec.write;
  const wanted = some?.find((one) => formatRules[format].samples.includes(one));
  return wanted && !some!.includes(sample) ? withWrite(converting, { sample: wanted }) : converting;
}

/** An alpha that a receiver takes and the format holds, its own rule first. */
function withAlpha(converting: Converting, { alpha: some }: Receiver): Converting {
  const { format, alpha: now } = converting.spec.write;
  if (!some || some.includes(now === 'matte' ? 'none' : now)) return converting;
  const { alpha: holds, alphaRule } = formatRules[format];
  const kinds = some.filter((kind) => kind === 'none' || holds);
  const wanted = kinds.find((kind) => kind === alphaRule) ?? kinds.find((kind) => kind !== 'none') ?? kinds[0];
  return wanted ? withWrite(converting, { alpha: wanted }) : converting;
}

/** The transfers of a receiver that are written. */
const writtenTransfers = ({ transfers: some }: Receiver) =>
  (some ?? []).flatMap((one) => transferSchema.safeParse(one).data ?? []);

function withTransfer(converting: Converting, receiver: Receiver): Converting {
  const [wanted] = writtenTransfers(receiver);
  return !receiver.transfers || receiver.transfers.includes(converting.spec.write.transfer) || !wanted
    ? converting
    : withWrite(converting, { transfer: wanted });
}

export const formats: Rule = {
  label: 'Formats',
  sentence: (receiver) => receiver.formats && `Files are ${orWords(receiver.formats.map(formatWords))}.`,
  breach({ format }, receiver) {
    if (!receiver.formats) return undefined;
    if (format === null) return { sentence: 'Its format could not be read.', unknown: true };
    return receiver.formats.includes(format)
      ? undefined
      : { sentence: `It is ${formatWords(format)}, not ${orWords(receiver.formats.map(formatWords))}.` };
  },
  byConverting: {
    words(receiver) {
      const format = writable(receiver);
      return format && `Write ${formatWords(format)}`;
    },
    // Another format brings its own depth, alpha and transfer: they are held to the receiver, too.
    change({ spec, stem }, receiver) {
      const format = writable(receiver);
      const next = { spec: format ? withFormat(spec, format) : spec, stem };
      return withTransfer(withAlpha(withDepth(next, receiver), receiver), receiver);
    },
  },
};

export const samples: Rule = {
  label: 'Depth',
  sentence: (receiver) => receiver.samples && `A sample is ${orWords(receiver.samples.map(sampleWords))}.`,
  breach: ({ sample }, receiver) =>
    receiver.samples && sample !== null && !receiver.samples.includes(sample)
      ? { sentence: `A sample is ${sampleWords(sample)}.` }
      : undefined,
  byConverting: { words: () => 'Write that depth', change: withDepth },
};

const bareAlpha = (kind: 'none' | 'straight' | 'premultiplied'): string =>
  kind === 'straight' ? 'straight' : kind === 'none' ? 'absent' : alphaWords[kind];
const alphaNow = { ...alphaWords, premultiplied: 'premultiplied alpha', ignore: 'alpha that is ignored' };

export const alpha: Rule = {
  label: 'Alpha',
  sentence: (receiver) => receiver.alpha && `Alpha is ${orWords(receiver.alpha.map(bareAlpha))}.`,
  breach({ alpha: held }, receiver) {
    if (!receiver.alpha) return undefined;
    if (held === null) return { sentence: 'Nothing says how its alpha is meant.', unknown: true };
    return held === 'ignore' || held === 'on-colour' || !receiver.alpha.includes(held)
      ? { sentence: `It has ${alphaNow[held]}.` }
      : undefined;
  },
  byConverting: { words: () => 'Write that alpha', change: withAlpha },
};

export const transfers: Rule = {
  label: 'Transfer',
  sentence: (receiver) =>
    receiver.transfers && `The transfer is ${orWords(receiver.transfers.map((one) => transferWords[one]))}.`,
  breach({ transfer }, receiver) {
    if (!receiver.transfers) return undefined;
    if (transfer === null) return { sentence: 'Nothing says which transfer it has.', unknown: true };
    return receiver.transfers.includes(transfer) ? undefined : { sentence: `It is ${transferWords[transfer]}.` };
  },
  byConverting: {
    words: (receiver) => (writtenTransfers(receiver).length > 0 ? 'Write that transfer' : undefined),
    change: withTransfer,
  },
};

function sizeWords({ maxWidth, maxHeight }: Receiver): string {
  if (maxWidth !== null && maxHeight !== null) return `${maxWidth} x ${maxHeight} pixels`;
  return maxWidth !== null ? `${maxWidth} pixels across` : `${maxHeight} pixels down`;
}

const heldSize = ({ width, height }: Held) => (width === null || height === null ? undefined : { width, height });

export const size: Rule = {
  label: 'Size',
  sentence: (receiver) =>
    receiver.maxWidth === null && receiver.maxHeight === null
      ? undefined
      : `A picture has at most ${sizeWords(receiver)}.`,
  breach(held, { maxWidth, maxHeight }) {
    const now = heldSize(held);
    if (!now || (now.width <= (maxWidth ?? Infinity) && now.height <= (maxHeight ?? Infinity))) return undefined;
    return { sentence: `It has ${now.width} x ${now.height} pixels.` };
  },
  byConverting: {
    words: () => 'Make pictures small enough',
    // A side that the receiver says nothing of is as large as any.
    change: (converting, { maxWidth, maxHeight }) =>
      withPicture(converting, {
        resize: resizeSchema.parse({
          to: { by: 'limit', width: maxWidth ?? mostAcross, height: maxHeight ?? mostAcross },
        }),
      }),
  },
};

export const multipleOf: Rule = {
  label: 'Sides',
  sentence: (receiver) =>
    receiver.multipleOf === null ? undefined : `Width and height are multiples of ${receiver.multipleOf}.`,
  breach(held, receiver) {
    const now = heldSize(held);
    const multiple = receiver.multipleOf;
    if (!now || multiple === null || (now.width % multiple === 0 && now.height % multiple === 0)) return undefined;
    return { sentence: `${now.width} x ${now.height} pixels are not multiples of ${multiple}.` };
  },
  byConverting: {
    words: (receiver) => `Pad to multiples of ${receiver.multipleOf}`,
    change: (converting, receiver) =>
      withPicture(converting, { pad: padSchema.parse({ multiple: receiver.multipleOf }) }),
  },
};

export const rates: Rule = {
  label: 'Rates',
  sentence: (receiver) => receiver.rates && `It plays at ${orWords(receiver.rates.map(printRate))}.`,
  breach({ pattern, files, rate }, receiver) {
    if (!receiver.rates || (!pattern && files <= 1)) return undefined;
    if (rate === null) return { sentence: 'No rate is declared.', unknown: true };
    return receiver.rates.some((one) => one.num * rate.den === rate.num * one.den)
      ? undefined
      : { sentence: `It plays at ${printRate(rate)}.` };
  },
};

export const frameBytes: Rule = {
  label: 'Bytes of a frame',
  sentence: (receiver) =>
    receiver.frameBytes === null ? undefined : `A frame has at most ${printBytes(receiver.frameBytes)}.`,
  breach({ bytes, files }, receiver) {
    if (bytes === null || files === 0 || receiver.frameBytes === null) return undefined;
    const each = bytes / files;
    return each > receiver.frameBytes ? { sentence: `A frame has ${printBytes(each)} on average.` } : undefined;
  },
};

export const totalBytes: Rule = {
  label: 'Bytes in total',
  sentence: (receiver) =>
    receiver.totalBytes === null ? undefined : `The total is at most ${printBytes(receiver.totalBytes)}.`,
  breach: ({ bytes, files }, receiver) =>
    bytes !== null && files > 0 && receiver.totalBytes !== null && bytes > receiver.totalBytes
      ? { sentence: `The total is ${printBytes(bytes)}.` }
      : undefined,
};

const withVideo = ({ spec, stem }: Converting, change: Partial<Spec['video']>): Converting => ({
  spec: { ...spec, video: { ...spec.video, ...change } },
  stem,
});

export const seconds: Rule = {
  label: 'Length',
  sentence: (receiver) =>
    receiver.seconds === null ? undefined : `It plays for at most ${printSeconds(receiver.seconds)}.`,
  breach: ({ seconds: now }, receiver) =>
    receiver.seconds !== null && now !== null && now > receiver.seconds
      ? { sentence: `It plays for ${printSeconds(now)}.` }
      : undefined,
};

export const loops: Rule = {
  label: 'Played',
  sentence: (receiver) => (receiver.loops ? 'A small moving picture plays for ever.' : undefined),
  breach: ({ plays }, receiver) =>
    receiver.loops && typeof plays === 'number' ? { sentence: `It plays ${plural(plays, 'time')}.` } : undefined,
  byConverting: { words: () => 'Play it for ever', change: (converting) => withVideo(converting, { plays: null }) },
};

export const fileBytes: Rule = {
  label: 'Bytes of a file',
  sentence: (receiver) =>
    receiver.fileBytes === null ? undefined : `A file has at most ${exactBytes(receiver.fileBytes)}.`,
  breach({ bytes, files, limit, format }, receiver) {
    const most = receiver.fileBytes;
    if (most === null) return undefined;
    if (bytes !== null)
      return files > 0 && bytes / files > most ? { sentence: `A file has ${exactBytes(bytes / files)}.` } : undefined;
    // What is not made yet is held to as many bytes, or nobody knows how many it will have.
    if (limit !== null) return limit > most ? { sentence: `It may have ${exactBytes(limit)}.` } : undefined;
    return codecRecord(format as Format)?.animation ? { sentence: 'It may have any number of bytes.' } : undefined;
  },
  byConverting: {
    words: (receiver) => `Keep it within ${exactBytes(receiver.fileBytes!)}`,
    change: (converting, receiver) => withVideo(converting, { limit: receiver.fileBytes, given: null }),
  },
};
