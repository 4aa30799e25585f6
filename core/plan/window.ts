import type { Source } from '../numbering/source.ts';
import { doesAny } from '../pixels/picture.ts';
import { burnsText } from '../spec/burn.ts';
import type { Spec } from '../spec/schema.ts';
import { isPlainTime } from '../spec/time.ts';
import type { Loss } from './plan.ts';

/** A source as a spec looks at it: as large as its data window, where all of that is the picture. */
export function throughWindow(source: Source, { picture }: Spec): Source {
  const { facts } = source;
  if (picture.window !== 'data' || !facts?.window) return source;
  const { window, ...rest } = facts;
  return { ...source, facts: { ...rest, width: window.width, height: window.height } };
}

/** Whether windows go from file to file: both have them, and no pixel is moved, mixed with others, or written over. */
const keepsWindows = ({ facts }: Source, spec: Spec): boolean =>
  facts?.format === 'exr' &&
  spec.write.format === 'exr' &&
  spec.picture.window === 'kept' &&
  !doesAny(spec.picture, 'moves') &&
  isPlainTime(spec.time) &&
  spec.mixed !== 'fit' &&
  !burnsText(spec.burn);

/**
 * What of each picture is read: what is shown; all of the data window; or all of it to be written with the windows that it had.
 * @param hasOthers whether pictures of other sources are laid on, or follow
 */
export function windowTaken(source: Source, spec: Spec, hasOthers: boolean): 'display' | 'data' | 'kept' {
  if (spec.picture.window === 'data') return 'data';
  return !hasOthers && keepsWindows(source, spec) ? 'kept' : 'display';
}

/** Pixels outside what is shown, where they are cut off. */
export function windowLosses(source: Source, spec: Spec, copies: boolean, hasOthers: boolean): Loss[] {
  const { facts } = source;
  // Channels are carried over with all of their window.
  if (!facts?.window || copies || spec.channels.length > 0 || windowTaken(source, spec, hasOthers) !== 'display')
    return [];
  const { left, top, width, height } = facts.window;
  const sides: [string, number][] = [
    ['left', -left],
    ['top', -top],
    ['right', left + width - facts.width],
    ['bottom', top + height - facts.height],
  ];
  const outside = sides.filter(([, pixels]) => pixels > 0).map(([side, pixels]) => `${pixels} ${side}`);
  if (outside.length === 0) return [];
  return [
    {
      code: 'overscan-cut',
      severity: 'doubt',
      sentence: `Pixels outside what is shown are cut off: ${outside.join(', ')}`,
      amount: 'all',
    },
  ];
}
