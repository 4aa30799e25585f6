import { useState } from 'react';
import type { Marker, Problem } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useMarkersQuery, usePutMarkersMutation, useReadMarkersMutation, useScenesMutation } from '../../api/api.ts';

const none: readonly Marker[] = [];

/** Markers and those of them that were not there before: one at the same frame by the same name is the same. */
export function merged(markers: readonly Marker[], more: readonly Marker[]): Marker[] {
  const key = ({ frame, name }: Marker) => `${frame} ${name}`;
  const known = new Set(markers.map(key));
  return [...markers, ...more.filter((one) => !known.has(key(one)))];
}

/** A marker at each frame where a scene begins, numbered so that names sort as frames do. */
export function sceneMarkers(frames: readonly number[]): Marker[] {
  const digits = String(frames.length).length;
  return frames.map((frame, index) => ({
    frame,
    length: 1,
    name: `scene ${String(index + 1).padStart(digits, '0')}`,
    note: '',
    colour: 'slate',
  }));
}

/** The markers of a source, the one that is chosen, and what changes them. @param at the frame that the stage stands at */
export function useMarkers({ id }: ListedSource, at: number) {
  const { data, error } = useMarkersQuery(id);
  const [put, { error: putError, isLoading: saving }] = usePutMarkersMutation();
  const [read, { error: readError }] = useReadMarkersMutation();
  const [findScenes, scenes] = useScenesMutation();
  const [problems, setProblems] = useState<Problem[]>([]);
  const [asked, choose] = useState<number | null>(null);
  const { markers, version } = { markers: none, version: 0, ...data };
  const chosen = asked !== null && asked < markers.length ? asked : null;
  const save = (next: readonly Marker[]) => put({ id, version, markers: [...next] });
  const add = async () => {
    const colour = chosen === null ? 'verdigris' : markers[chosen]!.colour;
    const answer = await save([...markers, { frame: at, length: 1, name: '', note: '', colour }]);
    if ('data' in answer && answer.data) choose(answer.data.markers.findLastIndex(({ frame }) => frame === at));
  };
  const bring = async (name: string, text: string) => {
    const answer = await read({ id, name, text });
    if (!('data' in answer) || !answer.data) return setProblems([]);
    setProblems(answer.data.problems);
    if (answer.data.markers.length > 0) await save(merged(markers, answer.data.markers));
  };
  const markScenes = async () => {
    const answer = await findScenes({ source: id });
    if ('data' in answer && answer.data) await save(merged(markers, sceneMarkers(answer.data.frames)));
  };
  const faults = [error, putError, readError, scenes.error].filter((one) => one !== undefined) as Problem[];
  return {
    markers,
    /** Grows with every change. */
    version,
    /** Whether they are there and may be changed. */
    ready: data !== undefined && !saving,
    loaded: data !== undefined,
    chosen,
    choose,
    add,
    bring,
    markScenes,
    findingScenes: scenes.isLoading,
    change: (place: number, next: Marker) => void save(markers.map((one, k) => (k === place ? next : one))),
    remove: (place: number) => {
      choose(null);
      void save(markers.filter((_, k) => k !== place));
    },
    faults,
    /** What of a list could not be taken. */
    problems,
  };
}
