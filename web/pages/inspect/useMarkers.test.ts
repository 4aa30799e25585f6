/** @jest-environment ./web/testing/page.mjs */
import type { Marker } from '@shale/core';
import { merged, sceneMarkers } from './useMarkers.ts';

const marker = (frame: number, name: string, more: Partial<Marker> = {}): Marker => ({
  ...{ frame, name, length: 1, note: '', colour: 'ochre' },
  ...more,
});

test('what is brought twice is there once; another name at the same frame is another marker', () => {
  const first = [marker(3, 'door'), marker(8, 'bell', { note: 'ours' })];
  const both = merged(first, [marker(8, 'bell', { note: 'theirs' }), marker(8, 'lamp'), marker(9, 'bell')]);
  expect(both.map(({ frame, name, note }) => [frame, name, note])).toEqual([
    [3, 'door', ''],
    [8, 'bell', 'ours'],
    [8, 'lamp', ''],
    [9, 'bell', ''],
  ]);
  expect(merged(both, both)).toEqual(both);
});

test('scenes are numbered so that their names sort as their frames', () => {
  const names = sceneMarkers(Array.from({ length: 12 }, (_, at) => at * 10)).map(({ name }) => name);
  expect([names[0], names[11]]).toEqual(['scene 01', 'scene 12']);
  expect([...names].sort()).toEqual(names);
  expect(sceneMarkers([])).toEqual([]);
});
