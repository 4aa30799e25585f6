import { createHash } from 'node:crypto';
import { asksForLook, frameCount, hasFrames, rateFraction } from '@shale/core';
import type { ListedSource } from '@shale/contract';

/** Numbers padded, so that names sort as people count; letters of either case together. */
const natural = (text: string): string =>
  text.toLowerCase().replace(/\d+/g, (digits) => digits.replace(/^0+(?=\d)/, '').padStart(10, '0'));

const short = (text: string): string => createHash('sha256').update(text).digest('hex').slice(0, 10);

const worstOf = { note: 1, doubt: 2, fault: 3 };

/** What lists are narrowed and sorted by. In `place` a folder's sources stand together, versions of one thing the newest first. */
export function columnsOf(source: ListedSource) {
  const { folder, family, version, declaration } = source;
  const rate = declaration.rate.value;
  const name = natural(family?.slice(folder === '' ? 0 : folder.length + 1) ?? source.name).slice(0, 150);
  return {
    place: `${natural(folder).slice(0, 100)}\u0001${short(folder)}\u0001${name}\u0001${String(9999 - (version ?? 0)).padStart(4, '0')}`,
    kind: source.kind,
    rate: hasFrames(source) && rate ? rateFraction(rate) : null,
    undeclared: hasFrames(source) && rate === null,
    worst: Math.max(0, ...source.findings.map((finding) => (asksForLook(finding) ? worstOf[finding.severity] : 1))),
    codes: ` ${[...new Set(source.findings.map(({ code }) => code))].join(' ')} `.slice(0, 600),
    frames: frameCount(source),
    bytes: source.bytes,
    modified: Math.round(source.modified),
    family: family === undefined ? null : short(family) + short(`${family}\0`),
    version: version ?? null,
  };
}

/** Weights in at most so many parts, each the mean of those that it takes together; parts without a frame do not count. */
export function fewer(weights: number[], parts: number): number[] {
  if (weights.length <= parts) return weights;
  return Array.from({ length: parts }, (_, part) => {
    const from = Math.floor((part * weights.length) / parts);
    const to = Math.floor(((part + 1) * weights.length) / parts);
    const present = weights.slice(from, to).filter((weight) => weight > 0);
    return present.length === 0 ? 0 : Math.round(present.reduce((sum, weight) => sum + weight, 0) / present.length);
  });
}
