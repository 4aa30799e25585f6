import { cleanLoops } from './loop.ts';

/** A dot that goes round in so many frames, on a row that is as long. */
const round = (count: number, period: number, from = 0) =>
  Array.from({ length: count }, (_, at) => {
    const row = new Float32Array(64);
    const angle = (2 * Math.PI * (at + from)) / period;
    for (let x = 0; x < 64; x += 1) row[x] = 128 + 100 * Math.cos(angle - (2 * Math.PI * x) / 64);
    return row;
  });

test('what comes round again is found: a whole turn, with a seam of nothing', () => {
  const [best] = cleanLoops(round(60, 24), 8);
  expect((best!.last - best!.first + 1) % 24).toBe(0);
  expect(best!.seam).toBeLessThan(1e-3);
  expect(best!.step).toBeGreaterThan(5);
});

test('a still before and after the turn is left out; what goes back is no seam of what goes forth', () => {
  const turn = round(25, 24);
  const lead = Array.from({ length: 5 }, (_, at) => Float32Array.from({ length: 64 }, () => at * 40));
  const loops = cleanLoops([...lead, ...turn], 12);
  expect(loops[0]).toMatchObject({ first: 5, last: 28 });
  // A swing passes each place twice, going the other way: only where it goes on as it did is the seam clean.
  const swing = Array.from({ length: 49 }, (_, at) => round(1, 48, 12 * Math.sin((2 * Math.PI * at) / 24))[0]!);
  const [best] = cleanLoops(swing, 10);
  expect((best!.last - best!.first + 1) % 24).toBe(0);
});

test('frames that are one turn as they are need no trimming', () => {
  expect(cleanLoops(round(24, 24), 8)[0]).toMatchObject({ first: 0, last: 23 });
  // One frame too many stands still at the seam.
  expect(cleanLoops(round(25, 24), 20)[0]).toMatchObject({ first: 0, last: 23 });
});

test('fewer frames than a loop has give none', () => {
  expect(cleanLoops(round(7, 24), 8)).toEqual([]);
  expect(cleanLoops([], 1)).toEqual([]);
});
