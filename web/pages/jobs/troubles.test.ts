import { job } from '../../testing/samples.ts';
import { endOf, needsLook } from './troubles.ts';

const problem = { code: 'disk-full', fact: 'The disk is full.', wayOut: 'Free some space.' };

test('what stopped by itself or failed asks for a look; what a person stopped does not', () => {
  expect(needsLook(job({ state: 'incomplete', failed: 2 }))).toBe(true);
  expect(needsLook(job({ state: 'stopped', problem }))).toBe(true);
  expect([job({ state: 'stopped' }), job({ state: 'done' }), job()].some(needsLook)).toBe(false);
});

test('the end of a job is told in a sentence; what still runs is not', () => {
  expect(endOf(job({ state: 'done', written: 4 }))).toEqual({
    severity: 'note',
    sentence: 'pan.####.png: 4 files written.',
  });
  expect(endOf(job({ state: 'incomplete', failed: 1, written: 3 }))!.sentence).toBe(
    'pan.####.png: 1 frame failed, 3 written.',
  );
  expect(endOf(job({ state: 'stopped', problem }))!.sentence).toBe('pan.####.png stopped: The disk is full.');
  expect(endOf(job())).toBeUndefined();
});
