import type { FindingCode } from './codes.ts';
import { printRate } from '../../timing/rate.ts';
import { plural } from '../../words.ts';
import type { Problem } from '../../errors.ts';
import { coverageCount } from '../ranges.ts';
import { capital, framesAt, naming } from './words.ts';
import type { Facts, Finding } from '../source.ts';

/** What a clip's packets and its first pictures bring to light. */
export function clipFindings({ clip, frames = 0, rate, width, height }: Facts): Finding[] {
  if (!clip) return [];
  const findings: Finding[] = [];
  const add = (code: FindingCode, severity: Finding['severity'], short: string, sentence: string, mend?: string) =>
    findings.push({ code, severity, sentence, short, ...(mend ? { mend } : {}) });
  const said = (clip.said ?? 0) - clip.leftOut;
  if (clip.cut > 0 || said > frames)
    add(
      'cut-short',
      'fault',
      'Cut short',
      said > frames
        ? `The file says that it has ${plural(said, 'picture')} and holds ${frames} whole: it is cut short.`
        : `Its data ends in the middle of a picture: ${plural(frames, 'picture')} before it are whole.`,
      'Request the file again; the complete pictures can be converted.',
    );
  else if (clip.said && said < frames)
    add(
      'count-mismatch',
      'doubt',
      'Fewer pictures than stated',
      `The file says ${plural(said, 'picture')} and holds ${frames}.`,
      'All available pictures are used.',
    );
  if (clip.torn.length > 0) {
    const which = naming(clip.torn);
    const few = coverageCount(clip.torn) === 1;
    findings.push({
      code: 'damaged-file',
      severity: 'fault',
      short: `${capital(which)} damaged`,
      sentence: `Data is lost in it: ${which} ${few ? 'leans' : 'lean'} on what is not there, and ${few ? 'is' : 'are'} not read.`,
      frames: clip.torn,
      mend: 'Request the file again, or treat damaged frames as missing.',
    });
  }
  if (clip.changesAt !== undefined)
    add(
      'size-changes',
      'fault',
      'Size changes',
      `From picture ${clip.changesAt} on pictures are not ${width} x ${height}.`,
      'Fit pictures that differ, or convert each part separately.',
    );
  if (clip.holes) {
    const lost = clip.holes.reduce((sum, hole) => sum + hole.lost, 0);
    const after = clip.holes.map((hole) => hole.after).join(', ');
    add(
      'missing-pictures',
      'fault',
      'Pictures missing',
      `${plural(lost, 'picture')} ${lost === 1 ? 'is' : 'are'} missing after picture ${after}: its times jump there.`,
      'Request the file again, or convert it to a constant rate by timestamp, which repeats the previous picture.',
    );
  } else if (clip.variable)
    add(
      'variable-rate',
      'doubt',
      'Rate varies',
      `Its pictures stay on screen for different times; ${rate ? printRate(rate) : 'no rate'} is what they come to over the whole.`,
      'Use every picture once, or convert to a constant rate by timestamp: press it in the sentence.',
    );
  if (clip.seen === 'pulldown')
    add(
      'pulldown',
      'doubt',
      'Pulldown',
      'Of each five pictures two are mixed of neighbours: film at 24 spread over 30 by 3:2 pulldown.',
      'Remove the pulldown: press it in the sentence.',
    );
  else if (clip.seen === 'interlaced' || (clip.fields !== 'progressive' && clip.seen !== 'progressive'))
    add(
      'interlaced',
      'doubt',
      'Interlaced',
      `Alternate lines are from a later moment${clip.fields === 'progressive' ? ', though the file does not say so' : clip.fields === 'top-first' ? ', the upper field first' : ', the lower field first'}.`,
      'De-interlace it, or keep the pictures as stored: press it in the sentence.',
    );
  if (clip.turn !== 0)
    add('turned', 'note', 'Turned', `The file asks to be shown rotated by ${clip.turn} degrees; Shale turns it.`);
  return findings;
}

/** Pictures of a clip that do not decode, by number; none where there are none. */
export function damagedPictures(faults: readonly { frame: number; problem: Problem }[]): Finding[] {
  const [first] = faults;
  if (!first) return [];
  const ranges = framesAt(
    Float64Array.from(faults, ({ frame }) => frame),
    faults.map((_, at) => at),
  );
  return [
    {
      code: 'damaged-file',
      severity: 'fault',
      sentence:
        faults.length === 1
          ? first.problem.fact
          : `${capital(naming(ranges))} do not decode. The first: ${first.problem.fact}`,
      short: `${capital(naming(ranges))} damaged`,
      frames: ranges,
      mend: first.problem.wayOut,
    },
  ];
}
