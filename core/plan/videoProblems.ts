import type { Problem } from '../errors.ts';
import type { Facts, Source } from '../numbering/source.ts';
import { sizeAfter } from '../pixels/picture.ts';
import type { Declaration } from '../spec/declaration.ts';
import { formatRules } from '../spec/formats.ts';
import type { Spec } from '../spec/schema.ts';
import { isVideoFormat, codecRecord } from '../formats/index.ts';
import { namedRates } from '../formats/codecs/told.ts';
import { chromaOf, containerOf, needsEven } from '../spec/video.ts';
import { parseRate, printRate, rateFraction, type Rate } from '../timing/rate.ts';
import { parseTimecode } from '../timing/timecode.ts';
import { refusing } from './attempt.ts';

/** What forbids a clip to be taken apart, or a video to be written, as a spec says. @param rate of the results */
export function videoProblems(source: Source, declaration: Declaration, spec: Spec, rate: Rate | null): Problem[] {
  const { facts } = source;
  const problems: Problem[] = [];
  if (facts?.clip?.variable && !facts.clip.runs && spec.clip.timing === 'constant-rate')
    problems.push({
      code: 'times-too-many',
      fact: `The times of ${source.name} change too often to keep.`,
      wayOut: 'Use every picture once.',
      subject: 'clip.timing',
    });
  if (!isVideoFormat(spec.write.format)) return problems;
  return [
    ...problems,
    ...rateProblems(source.name, rate, spec),
    ...codedProblems(spec.write, spec.video),
    ...(facts ? sizeProblems(facts, declaration, spec) : []),
    ...timecodeProblems(spec.video.timecode, rate),
  ];
}

function rateProblems(name: string, rate: Rate | null, { write, video }: Spec): Problem[] {
  const subject = 'declaration.rate';
  if (!rate)
    return [
      {
        code: 'rate-not-declared',
        fact: `Nothing gives the rate of ${name}, and a video needs one.`,
        wayOut: 'Declare its rate: press it in the sentence, use Inspect, or give --rate.',
        subject,
      },
    ];
  const record = codecRecord(write.format)!;
  const rates = record.rates ?? (containerOf(write.format, video) === 'mxf' ? namedRates : undefined);
  if (rates && !rates.includes(rateFraction(rate)))
    return [
      {
        code: 'rate-not-held',
        fact: `${record.words} does not hold ${printRate(rate)}: it names ${rates.map((one) => printRate(parseRate(one)).replace(' fps', '')).join(', ')}.`,
        wayOut: 'Change the result to one of these rates, or choose another format.',
        subject,
      },
    ];
  const { fastest } = record.animation ?? {};
  if (fastest !== undefined && rate.num / rate.den > fastest)
    return [
      {
        code: 'rate-too-quick',
        fact: `Players slow a ${record.words} of ${printRate(rate)} down: none shows more than ${fastest} pictures a second.`,
        wayOut: `Change the result to ${fastest} fps or less, or choose another format.`,
        subject,
      },
    ];
  if (rate.num / rate.den <= 300) return [];
  const fact = `${rateFraction(rate)} frames a second are more than players can show.`;
  return [{ code: 'rate-outside', fact, wayOut: 'Declare another rate.', subject }];
}

/** Settings that the codec does not have. */
function codedProblems({ format, sample, alpha }: Spec['write'], video: Spec['video']): Problem[] {
  const problems: Problem[] = [];
  const rules = codecRecord(format)!;
  if (rules.crf && video.control === 'quality' && video.crf !== null && video.crf > rules.crf.most)
    problems.push({
      code: 'quality-outside',
      fact: `${formatRules[format].words} has qualities from 0 to ${rules.crf.most}.`,
      wayOut: 'Choose one of those.',
      subject: 'video.crf',
    });
  if (video.maxBitrate !== null && video.control === 'bitrate' && video.maxBitrate < video.bitrate)
    problems.push({
      code: 'bitrate-below',
      fact: `The greatest bitrate, ${video.maxBitrate} kb/s, is below the one to reach, ${video.bitrate}.`,
      wayOut: 'Raise it, or remove it.',
      subject: 'video.maxBitrate',
    });
  if (format === 'vp9' && sample !== 'u8' && alpha !== 'none')
    problems.push({
      code: 'depth-not-held',
      fact: 'VP9 holds alpha with 8 bits only.',
      wayOut: 'Choose 8-bit, or no alpha.',
      subject: 'write.sample',
    });
  if (format === 'vp9' && alpha !== 'none' && chromaOf(format, video) !== '4:2:0')
    problems.push({
      code: 'chroma-not-held',
      fact: 'VP9 holds alpha with colour at 4:2:0 only.',
      wayOut: 'Choose 4:2:0, or no alpha.',
      subject: 'video.chroma',
    });
  return problems;
}

/** Sides that have to be even and are not. */
function sizeProblems(facts: Facts, { pixelAspect }: Declaration, { write, video, picture }: Spec): Problem[] {
  const even = needsEven(write.format, video);
  const { width, height } = sizeAfter(facts, picture, pixelAspect.value ?? undefined);
  const { least, most = Infinity, words } = codecRecord(write.format)!;
  if (least && (width < least.width || height < least.height))
    return [
      {
        code: 'size-too-small',
        fact: `Pictures are ${width} x ${height}, and ${words} takes none below ${least.width} x ${least.height}.`,
        wayOut: 'Make them larger, pad them, or choose another format.',
        subject: 'write.format',
      },
    ];
  if (width > most || height > most)
    return [
      {
        code: 'size-too-large',
        fact: `Pictures are ${width} x ${height}, and ${words} takes no side above ${most}.`,
        wayOut: 'Make them smaller, or choose another format.',
        subject: 'write.format',
      },
    ];
  const isOdd = (even.width && width % 2 === 1) || (even.height && height % 2 === 1);
  if (!isOdd || video.oddSize !== 'stop') return [];
  const coded = `${formatRules[write.format].words} with ${chromaOf(write.format, video) ?? '4:2:2'}`;
  return [
    {
      code: 'odd-size',
      fact: `Pictures are ${width} x ${height}, and ${coded} shares a colour sample between two pixels, so ${even.height ? 'both sides have' : 'the width has'} to be even.`,
      wayOut: 'Repeat or cut off the last line; or write 4:4:4 if the format has it.',
      subject: 'video.oddSize',
    },
  ];
}

function timecodeProblems(timecode: string | null, rate: Rate | null): Problem[] {
  if (timecode === null || !rate) return [];
  const problems: Problem[] = [];
  refusing(problems, () => parseTimecode(timecode, rate), 0);
  return problems.map((problem) => ({ ...problem, subject: 'video.timecode' }));
}
