import { problemOf, ShaleError, type Problem } from '../errors.ts';
import type { Source } from '../numbering/source.ts';
import { sizeAfter } from '../pixels/picture.ts';
import type { Declaration } from '../spec/declaration.ts';
import { formatRules } from '../spec/formats.ts';
import type { Spec } from '../spec/schema.ts';
import { isVideoFormat, codecRecord } from '../formats/index.ts';
import { chromaOf, needsEven } from '../spec/video.ts';
import { rateFraction, type Rate } from '../timing/rate.ts';
import { parseTimecode } from '../timing/timecode.ts';

/** What forbids a clip to be taken apart, or a video to be written, as a spec says. @param rate of the results */
export function videoProblems(source: Source, declaration: Declaration, spec: Spec, rate: Rate | null): Problem[] {
  const problems: Problem[] = [];
  const add = (code: string, fact: string, wayOut: string, subject: string) =>
    problems.push({ code, fact, wayOut, subject });
  const { write, video, clip } = spec;
  const { facts } = source;
  if (facts?.clip?.variable && !facts.clip.runs && clip.timing === 'constant-rate')
    add(
      'times-too-many',
      `The times of ${source.name} change too often to be kept.`,
      'Take every picture once.',
      'clip.timing',
    );
  if (!isVideoFormat(write.format)) return problems;
  const { words } = formatRules[write.format];
  if (!rate)
    add(
      'rate-not-declared',
      `Nothing says at which rate ${source.name} plays, and a video has to have one.`,
      'Declare its rate: press it in the sentence, use Inspect, or give --rate.',
      'declaration.rate',
    );
  const rules = codecRecord(write.format)!;
  if (rules.crf && video.control === 'quality' && video.crf !== null && video.crf > rules.crf.most)
    add('quality-outside', `${words} has qualities from 0 to ${rules.crf.most}.`, 'Choose one of those.', 'video.crf');
  if (video.maxBitrate !== null && video.control === 'bitrate' && video.maxBitrate < video.bitrate)
    add(
      'bitrate-below',
      `The greatest bitrate, ${video.maxBitrate} kb/s, is below the one to reach, ${video.bitrate}.`,
      'Raise it, or take it away.',
      'video.maxBitrate',
    );
  if (write.format === 'vp9' && write.sample !== 'u8' && write.alpha !== 'none')
    add('depth-not-held', 'VP9 holds alpha with 8 bits only.', 'Choose 8-bit, or no alpha.', 'write.sample');
  if (facts) {
    const even = needsEven(write.format, video);
    const size = sizeAfter(facts, spec.picture, declaration.pixelAspect.value ?? undefined);
    const odd = (even.width && size.width % 2 === 1) || (even.height && size.height % 2 === 1);
    if (odd && video.oddSize === 'stop')
      add(
        'odd-size',
        `Pictures are ${size.width} x ${size.height}, and ${words} with ${chromaOf(write.format, video) ?? '4:2:2'} shares a colour sample between two pixels: ${even.height ? 'both sides have' : 'the width has'} to be even.`,
        'Let a line be added (the last one again) or cut off; or write 4:4:4 where the format has it.',
        'video.oddSize',
      );
  }
  if (video.timecode !== null && rate) {
    try {
      parseTimecode(video.timecode, rate);
    } catch (error) {
      if (!(error instanceof ShaleError)) throw error;
      problems.push({ ...problemOf(error), subject: 'video.timecode' });
    }
  }
  if (rate && rate.num / rate.den > 300)
    add(
      'rate-outside',
      `${rateFraction(rate)} frames a second are more than players show.`,
      'Declare another rate.',
      'declaration.rate',
    );
  return problems;
}
