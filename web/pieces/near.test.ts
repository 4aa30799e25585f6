import { stepsBetween } from './near.ts';

test('a sibling is nearer than a far folder, and both are nearer than another root', () => {
  const at = (folder: string, root = 'museum') => ({ root, folder });
  const from = at('plates/depot_pan');
  expect(stepsBetween(from, at('plates/depot_pan'))).toBe(0);
  expect(stepsBetween(from, at('plates/timetable'))).toBe(2);
  expect(stepsBetween(from, at('plates'))).toBe(1);
  expect(stepsBetween(from, at('lines/line_01'))).toBe(4);
  expect(stepsBetween(from, at(''))).toBe(2);
  expect(stepsBetween(from, at('plates/depot_pan', 'results'))).toBe(Infinity);
});
