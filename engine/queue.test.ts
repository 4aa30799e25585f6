import fc from 'fast-check';
import { FairQueue, type InQueue } from './queue.ts';

interface One extends InQueue {
  name: string;
}
const one = (name: string, asker: unknown, more: Partial<InQueue> = {}): One => ({
  name,
  asker,
  newest: false,
  rank: 0,
  ...more,
});
const drain = (queue: FairQueue<One>): string[] => {
  const names: string[] = [];
  for (let next = queue.take(); next; next = queue.take()) names.push(next.name);
  return names;
};

test('askers take turns; of one asker in order', () => {
  const queue = new FairQueue<One>();
  for (const name of ['a1', 'a2', 'a3', 'b1', 'c1', 'b2']) queue.add(one(name, name[0]));
  expect(queue.length).toBe(6);
  expect(drain(queue)).toEqual(['a1', 'b1', 'c1', 'a2', 'b2', 'a3']);
});

test('what somebody looks at goes newest first, and the oldest every fourth time', () => {
  const queue = new FairQueue<One>();
  for (let at = 1; at <= 8; at += 1) queue.add(one(String(at), 'viewer', { newest: true }));
  expect(drain(queue)).toEqual(['8', '7', '6', '1', '5', '4', '3', '2']);
});

test('a smaller rank goes first whatever turn it is', () => {
  const queue = new FairQueue<One>();
  queue.add(one('late', 'a', { rank: 2 }));
  queue.add(one('normal', 'b', { rank: 1 }));
  queue.add(one('first', 'a', { rank: 0 }));
  expect(drain(queue)).toEqual(['first', 'normal', 'late']);
});

test('what is taken out does not get its turn, and what is cleared is given back', () => {
  const queue = new FairQueue<One>();
  const [a, b, c] = ['a', 'b', 'c'].map((name) => one(name, name)) as [One, One, One];
  for (const each of [a, b, c]) queue.add(each);
  expect([queue.remove(b), queue.remove(b)]).toEqual([true, false]);
  expect(queue.clear()).toEqual([a, c]);
  expect(queue.take()).toBeUndefined();
});

test('nobody waits for more than four turns of all askers for each that he wants', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.integer({ min: 0, max: 5 }), fc.boolean()), { minLength: 1, maxLength: 60 }),
      (asked) => {
        const queue = new FairQueue<One>();
        asked.forEach(([asker, newest], at) => queue.add(one(String(at), asker, { newest })));
        const order = drain(queue);
        expect([...order].sort((a, b) => Number(a) - Number(b))).toEqual(asked.map((_, at) => String(at)));
        const askers = new Set(asked.map(([asker]) => asker)).size;
        // Among the first so many picks every asker has had one.
        expect(new Set(order.slice(0, askers).map((name) => asked[Number(name)]![0])).size).toBe(askers);
      },
    ),
  );
});
