import { halfTable } from './half.ts';
import { areAlike, type Image } from './image.ts';

/** How two pictures of one shape differ, sample by sample. */
export interface Difference {
  /** Samples that are not the same, bit for bit. */
  samples: number;
  /** The greatest difference, in codes for integers, in value for floats. */
  most: number;
}

/** Compares two pictures; undefined where their size, channels or samples differ in kind. */
export function compareImages(a: Image, b: Image): Difference | undefined {
  if (!areAlike(a, b)) return undefined;
  const values = a.sample === 'f16' ? halfTable() : undefined;
  let samples = 0;
  let most = 0;
  for (let at = 0; at < a.data.length; at += 1) {
    const left = a.data[at]!;
    const right = b.data[at]!;
    if (left === right || (left !== left && right !== right)) continue;
    samples += 1;
    const apart = Math.abs(values ? values[left]! - values[right]! : left - right);
    if (apart > most) most = apart;
  }
  return { samples, most };
}
