import { coverageCount, covers, frameSpan, gapsIn, type FrameRange, type Marker } from '@shale/core';

/** What a strip shows, told in frame numbers. */
export interface StripModel {
  first: number;
  last: number;
  present: readonly FrameRange[];
  missing: readonly FrameRange[];
  /** Frames whose number two files hold. */
  doubled: readonly FrameRange[];
  /** Frames that a finding points at. */
  suspect: readonly FrameRange[];
  /** Mean bytes in equal parts of first..last; 0 where nothing is. */
  weights: readonly number[];
  /** Places that are marked. */
  markers?: readonly Marker[];
  /** Shots that follow one another: where each begins, and what it is called. */
  cuts?: readonly { place: number; name: string }[];
}

/** The strip of a source. */
export function stripOf(source: {
  coverage: readonly FrameRange[];
  weights: readonly number[];
  doubled: readonly { frame: number }[];
  findings: readonly { code: string; frames?: readonly FrameRange[]; setAside?: string }[];
}): StripModel {
  const span = frameSpan(source.coverage) ?? { first: 0, last: 0 };
  const suspects = source.findings.filter(
    ({ code, frames, setAside }) =>
      frames &&
      setAside === undefined &&
      code !== 'missing-frames' &&
      code !== 'duplicate-number' &&
      code !== 'mixed-padding',
  );
  return {
    ...span,
    present: source.coverage.length > 0 ? source.coverage : [{ first: 0, last: 0, step: 1 }],
    missing: gapsIn(source.coverage),
    doubled: source.doubled.map(({ frame }) => ({ first: frame, last: frame, step: 1 })),
    suspect: suspects.flatMap(({ frames = [] }) => frames),
    weights: source.weights,
  };
}

/** A column of the strip: what its frames are, all together. */
export interface Column {
  /** Left edge and width in pixels. */
  x: number;
  width: number;
  first: number;
  last: number;
  kind: 'present' | 'missing' | 'absent';
  doubled: boolean;
  suspect: boolean;
  /** 0 for the lightest frame of the source to 1 for the heaviest. */
  weight: number;
}

const touches = (ranges: readonly FrameRange[], first: number, last: number): boolean =>
  ranges.some(
    (range) => range.last >= first && range.first <= last && (range.step === 1 || coversSome(range, first, last)),
  );

function coversSome(range: FrameRange, first: number, last: number): boolean {
  const from = Math.max(range.first, range.first + Math.ceil((first - range.first) / range.step) * range.step);
  return from <= Math.min(last, range.last);
}

/**
 * Cuts a strip into columns: one a frame while there is a pixel for each, else one a pixel. A column that holds a missing,
 * doubled or suspect frame shows it, so that one bad frame in 100,000 is still seen.
 */
export function columnsOf(model: StripModel, pixels: number): Column[] {
  const frames = model.last - model.first + 1;
  const count = Math.max(1, Math.min(frames, Math.floor(pixels)));
  const known = model.weights.filter((weight) => weight > 0);
  const least = Math.min(...known);
  const most = Math.max(...known);
  // Frames that hardly differ are of one shade: strata are told, not noise.
  const flat = known.length === 0 || most - least < least * 0.02;
  return Array.from({ length: count }, (_, index) => {
    const first = model.first + Math.floor((index * frames) / count);
    const last = model.first + Math.floor(((index + 1) * frames) / count) - 1;
    const part = Math.min(
      model.weights.length - 1,
      Math.floor((((first + last) / 2 - model.first) * model.weights.length) / frames),
    );
    const bytes = model.weights[part] || least;
    const missing = touches(model.missing, first, last);
    const present = touches(model.present, first, last);
    return {
      x: (index * pixels) / count,
      width: pixels / count,
      first,
      last,
      kind: missing ? 'missing' : present ? 'present' : 'absent',
      doubled: touches(model.doubled, first, last),
      suspect: touches(model.suspect, first, last),
      weight: flat ? 0.35 : (bytes - least) / (most - least),
    };
  });
}

/** What the strip says in words, for those who do not see it. */
export function stripWords(model: StripModel): string {
  const missing = coverageCount(model.missing);
  const present = coverageCount(model.present);
  const extra = [
    missing > 0 && `${missing} missing`,
    model.doubled.length > 0 && `${model.doubled.length} duplicated`,
    model.suspect.length > 0 && `${coverageCount(model.suspect)} suspect`,
    model.markers && model.markers.length > 0 && `${model.markers.length} marked`,
    model.cuts && model.cuts.length > 1 && `${model.cuts.length} shots`,
  ].filter(Boolean);
  return [`${present} frames from ${model.first} to ${model.last}`, ...extra].join(', ');
}

/** The frame number under a place of the strip. */
export const frameUnder = (model: StripModel, share: number): number =>
  Math.min(model.last, Math.max(model.first, model.first + Math.floor(share * (model.last - model.first + 1))));

export const isPresent = (model: StripModel, frame: number): boolean => covers(model.present, frame);
