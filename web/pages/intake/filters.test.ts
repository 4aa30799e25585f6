import type { ListedSource } from '@shale/contract';
import { fit } from '../../stage/draw.ts';
import { filters, foldersOf, liesIn } from './filters.ts';

const source = (folder: string, kind: ListedSource['kind'] = 'sequence', root = 'm') =>
  ({ folder, kind, root, findings: [] }) as unknown as ListedSource;

test('folders directly below a root, with all that lies in and below them', () => {
  const all = [source(''), source('plates'), source('plates/a'), source('walks'), source('plates', 'clip', 'other')];
  expect(foldersOf(all, 'm')).toEqual([
    { folder: 'plates', count: 2 },
    { folder: 'walks', count: 1 },
  ]);
  expect(all.filter((one) => one.root === 'm' && liesIn(one, 'plates'))).toHaveLength(2);
  expect(liesIn(source('plates_old'), 'plates')).toBe(false);
  expect(liesIn(source(''), '')).toBe(true);
});

test('filters by kind', () => {
  expect(filters.clips.keeps(source('', 'clip'))).toBe(true);
  expect(filters.sequences.keeps(source('', 'clip'))).toBe(false);
  expect(filters.all.keeps()).toBe(true);
});

test.each([
  [1920, 1080, 800, 600, { x: 0, y: 75, width: 800, height: 450 }],
  [100, 100, 800, 600, { x: 200, y: 100, width: 400, height: 400 }],
  [1, 1000, 500, 500, { x: 249.75, y: 0, width: 0.5, height: 500 }],
])('a picture of %i x %i stands whole and in the middle of %i x %i', (width, height, stageWidth, stageHeight, box) =>
  expect(fit(width, height, stageWidth, stageHeight)).toEqual(box),
);
