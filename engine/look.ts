import { join } from 'node:path';
import {
  alikePlaces,
  conclude,
  Kinds,
  namesOf,
  noReadings,
  type Alike,
  type FrameColumns,
  type FrameReadings,
  type Moment,
  type Source,
} from '@shale/core';
import { lookAt, samePicture } from '@shale/media';

/** Readings of some files, and the places of those that are not what the listing said any more. */
export interface Looked {
  readings: FrameReadings;
  changed: number[];
}

/** Looks at files of one folder: headers, ends, samples of their data. @param folder absolute */
export async function lookAtFiles(
  folder: string,
  names: readonly string[],
  listed: { bytes: ArrayLike<number>; modified: ArrayLike<number> },
  signal: AbortSignal,
): Promise<Looked> {
  const readings = noReadings(names.length);
  const kinds = new Kinds(readings.kinds);
  const changed: number[] = [];
  for (let at = 0; at < names.length && !signal.aborted; at += 1) {
    const { facts, problem, picture, content, size, modified } = await lookAt(join(folder, names[at]!));
    readings.kind[at] = facts ? kinds.indexOf(facts) : -1;
    readings.picture[at] = picture;
    readings.content[at] = content;
    if (size !== listed.bytes[at] || modified !== listed.modified[at]) changed.push(at);
    if (problem) readings.problems.push({ at, code: problem.code, fact: problem.fact, wayOut: problem.wayOut });
  }
  return { readings, changed };
}

/** Bytes that are compared at the most to make sure of pictures that seem alike. */
const compared = 512 * 2 ** 20;

/** Which of the places that seem alike truly are, compared byte for byte while the bytes allow it, spread over all. */
async function makeSure(
  folder: string,
  source: Source,
  columns: FrameColumns,
  readings: FrameReadings,
): Promise<Alike> {
  const places = alikePlaces(columns, readings);
  let left = compared;
  const step = Math.max(1, Math.ceil(places.reduce((sum, at) => sum + 2 * readings.picture[at]!, 0) / compared));
  const names = places.length > 0 ? namesOf(source, columns) : [];
  const differ = new Set<number>();
  let all = true;
  for (const [index, at] of places.entries()) {
    if (index % step !== 0 || left <= 0) {
      all = false;
      continue;
    }
    left -= 2 * readings.picture[at]!;
    const same = await samePicture(join(folder, names[at - 1]!), join(folder, names[at]!));
    if (same === false) differ.add(at);
    if (same === undefined) all = false;
  }
  return { places: places.filter((at) => !differ.has(at)), sure: all };
}

/** What a source is judged by. `alike` is what an earlier look made sure of, where nothing changed since. */
export interface ToJudge {
  source: Source;
  columns: FrameColumns;
  readings: FrameReadings;
  alike?: Alike;
}

/** A sequence with its facts and everything that its files tell. @param folder absolute */
export async function judge(folder: string, one: ToJudge, moment: Moment): Promise<{ source: Source; alike: Alike }> {
  const { source, columns, readings } = one;
  const alike = one.alike ?? (await makeSure(folder, source, columns, readings));
  return { source: conclude(source, { columns, readings, alike, moment }), alike };
}
