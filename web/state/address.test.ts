import { batchOf, withDifference } from '@shale/core';
import { spec } from '../testing/samples.ts';
import { saidOf, specSaid, wishSaid, wishSaidOf } from './address.ts';

test('a sentence is said in an address, and read there as it was', () => {
  const wanted = { ...spec, frames: '1-9', names: { ...spec.names, stem: 'glocke_ö' } };
  const text = saidOf(spec, wanted)!;
  expect(text).toMatch(/^[\w-]+$/);
  expect(specSaid(spec, text)).toEqual(wanted);
  expect(saidOf(spec, spec)).toBeNull();
});

test('what cannot be read is as if nothing was said', () => {
  for (const text of [null, '', 'x', '!!!', btoa('{"write.format":"gem"}'), btoa('[]')])
    expect(specSaid(spec, text)).toBeUndefined();
  expect(wishSaid(batchOf(spec), btoa('{"outputs":[]}'))).toBeUndefined();
});

test('outputs, what differs and what is made are said of many', () => {
  const half = { ...spec, into: { ...spec.into, folder: 'half' } };
  const wish = { batch: withDifference(batchOf(spec, half), 'a', 1, { ...half, frames: '3' }), makes: 'new' as const };
  expect(wishSaid(batchOf(spec), wishSaidOf(batchOf(spec), wish))).toEqual(wish);
  expect(wishSaidOf(batchOf(spec), { batch: batchOf(spec), makes: 'all' })).toBeNull();
  const many = Array.from({ length: 500 }, (_, at) => ({ source: `source-${at}`, output: 0, own: { frames: '1' } }));
  expect(wishSaidOf(batchOf(spec), { batch: { ...batchOf(spec), differences: many }, makes: 'all' })).toBeNull();
});
