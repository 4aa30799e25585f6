import { frameSpan } from '../numbering/source.ts';
import { frameOfRun } from '../plan/places.ts';
import type { Plan } from '../plan/plan.ts';
import { shotDeclaration, shotSource } from '../plan/rows.ts';
import type { Marker } from '../spec/marker.ts';
import type { EditShot } from './edl.ts';
import { timecodeStart } from './toMarkers.ts';

/**
 * The shots of a plan as cuts, each frame once and in order, and markers of its first source that are in them, counted from the result's
 * first frame. Work on time is not of an edit list: the frames are those that go in.
 */
export function editShots(
  plan: Plan,
  markers: readonly Marker[],
): { title: string; shots: EditShot[]; markers: Marker[] } {
  const shots: EditShot[] = [];
  const moved: Marker[] = [];
  const marked = new Map<number, Marker[]>();
  for (const marker of markers) marked.set(marker.frame, [...(marked.get(marker.frame) ?? []), marker]);
  let at = 0;
  for (const run of plan.runs) {
    if (run.kind !== 'write') continue;
    const shot = run.shot ?? 0;
    const source = shotSource(plan, shot);
    const first = frameSpan(source.coverage)?.first ?? 0;
    const rate = shotDeclaration(plan, shot).rate.value ?? plan.rate!;
    const zero = (timecodeStart(source, rate) ?? 0) - first;
    for (let place = 0; place < run.count; place += 1, at += 1) {
      const { frame, mixed } = frameOfRun(run, place);
      const last = shots[shots.length - 1];
      const from = frame + zero;
      if (last && last.reel === source.name && last.to === from) last.to += 1;
      else shots.push({ reel: source.name, name: source.name, from, to: from + 1 });
      if (shot === 0 && !mixed) for (const marker of marked.get(frame) ?? []) moved.push({ ...marker, frame: at });
    }
  }
  const { into } = plan;
  const title =
    into.kind === 'video' ? into.file.replace(/\.[^.]+$/, '') : into.folder.split('/').pop() || plan.source.name;
  return { title, shots, markers: moved };
}
