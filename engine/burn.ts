import { band, titleLetters } from '@shale/media';
import {
  burnText,
  burnsText,
  isVideoFormat,
  makeSamples,
  printCoverage,
  printRate,
  resultCount,
  shotSource,
  timecodeAfter,
  writeOver,
  type BurnField,
  type Image,
  type Plan,
  type PlanRow,
  type SampleFormat,
} from '@shale/core';

/** The timecode of a result, counted on from that of the first picture that is not a title. */
function timecodeOf({ rate, spec, runs }: Plan, frame: number): string {
  if (!rate) return '--:--:--:--';
  const first = runs.find(({ kind }) => kind !== 'title' && kind !== 'missing')?.to ?? 0;
  try {
    return timecodeAfter(spec.video.timecode ?? '00:00:00:00', frame - first, rate);
  } catch {
    return '--:--:--:--';
  }
}

/** The picture of a row with what is to be written into it. */
export function burnIn(plan: Plan, row: PlanRow, image: Image): Image {
  const { burn } = plan.spec;
  if (!burnsText(burn)) return image;
  const file = row.to.slice(row.to.lastIndexOf('/') + 1);
  const writesVideo = isVideoFormat(plan.spec.write.format);
  const values: Record<BurnField, string> = {
    // Of a film pictures count from the one behind the title.
    frame: String(row.frame - (writesVideo ? burn.slate : 0)),
    source: String(row.sourceFrame),
    timecode: timecodeOf(plan, row.frame),
    name: shotSource(plan, row.shot).name,
    file,
    rate: plan.rate ? printRate(plan.rate) : '',
  };
  const letter = Math.max(6, Math.round((image.height * burn.size) / 100));
  const lines = (['left', 'middle', 'right'] as const).map((at) => ({ at, text: burnText(burn[at], values) }));
  // What a converter gave may be what it was given.
  const written = { ...image, data: image.data.slice() };
  writeOver(written, band(image, lines, letter, burn.where));
  return written;
}

/** The picture before a film that says what follows. */
export function titlePicture(
  plan: Plan,
  size: { width: number; height: number },
  sample: SampleFormat,
  channels: 3 | 4,
): Image {
  const { source, rate, shots, into, spec } = plan;
  const first = plan.runs.find(({ kind }) => kind !== 'title' && kind !== 'missing');
  const count = resultCount(plan.runs.filter(({ kind }) => kind !== 'title'));
  const facts: [string, string][] = [
    ['Source', [source.name, ...shots.map((shot) => shot.source.name)].join(', ')],
    [
      'Frames',
      `${count}${source.kind === 'still' ? '' : `, from ${spec.frames === 'all' ? printCoverage(source.coverage) : spec.frames}`}`,
    ],
    ...(rate
      ? ([
          ['Rate', printRate(rate)],
          ['Begins at', timecodeOf(plan, first?.to ?? 0)],
        ] as [string, string][])
      : []),
    ['Size', `${size.width} x ${size.height}`],
    ...(spec.names.stem ? ([['Stem', spec.names.stem]] as [string, string][]) : []),
  ];
  const image: Image = { ...size, channels, sample, data: makeSamples(sample, size.width * size.height * channels) };
  writeOver(image, titleLetters(size, { title: into.kind === 'video' ? into.file : source.name, facts }));
  return image;
}
