/** @jest-environment ./web/testing/page.mjs */
import { act, cleanup, renderHook } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { parseSpec, type Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { saidOf } from '../../state/address.ts';
import { useSpec } from './useConvert.ts';

const source = (id: string) => ({ id }) as ListedSource;
const start = parseSpec({
  version: 1,
  write: { format: 'png', sample: 'u16', alpha: 'straight', transfer: 'srgb' },
});
const begun = (id: string, at = '/') =>
  renderHook(() => useSpec(source(id), start), {
    wrapper: ({ children }) => <MemoryRouter initialEntries={[at]}>{children}</MemoryRouter>,
  }).result;

beforeEach(() => sessionStorage.clear());
afterEach(cleanup);

test('what is wanted of a source is kept by source, and begins as it starts elsewhere', () => {
  const pan = begun('pan');
  expect(pan.current.spec).toEqual(start);
  act(() => pan.current.change({ ...pan.current.spec, names: { ...start.names, first: 1001 } }));
  expect(pan.current.spec.names.first).toBe(1001);
  // Another window of the same page, loaded anew.
  expect(begun('pan').current.spec.names.first).toBe(1001);
  expect(begun('tilt').current.spec.names.first).toBeNull();
});

test('a format that was tried takes neither alpha nor depth away, also after the page was loaded anew', () => {
  const page = begun('pan');
  act(() => page.current.changeFormat('jpeg'));
  expect(page.current.spec.write).toMatchObject({ format: 'jpeg', sample: 'u8', alpha: 'none' });
  act(() => page.current.changeFormat('tiff'));
  expect(page.current.spec.write).toMatchObject({ format: 'tiff', sample: 'u16', alpha: 'straight' });
  act(() => page.current.changeFormat('jpeg'));
  const anew = begun('pan');
  act(() => anew.current.changeFormat('png'));
  expect(anew.current.spec.write).toMatchObject({ format: 'png', alpha: 'straight' });
});

test('what cannot be read any more is begun anew', () => {
  sessionStorage.setItem('shale-spec-pan', '{"version": 99}');
  expect(begun('pan').current.spec).toEqual(start);
  sessionStorage.setItem('shale-spec-pan', 'nonsense');
  expect(begun('pan').current.spec).toEqual(start);
  const kept: Spec = begun('pan').current.spec;
  expect(kept.write.format).toBe('png');
});

test('an address that was copied says what is wanted, and what this window kept is newer than its own', () => {
  const wanted = { ...start, frames: '1-9' };
  const at = `/convert/pan?say=${saidOf(start, wanted)!}`;
  expect(begun('pan', at).current.spec).toEqual(wanted);
  sessionStorage.setItem('shale-said-pan', saidOf(start, wanted)!);
  sessionStorage.setItem('shale-spec-pan', JSON.stringify({ ...start, frames: '2' }));
  expect(begun('pan', at).current.spec.frames).toBe('2');
});
