import { namingSpecSchema } from '@shale/core';
import {
  frameChosen,
  frameStepped,
  heldAgainst,
  lookingChanged,
  playSwitched,
  stageSet,
  stageSlice,
} from '../stage/state.ts';
import { keepChanges, readKept, type KeptState, type Shelves } from './kept.ts';
import { emptyNaming, emptySpec, namesGiven, namingBegun, namingSlice, receiverChosen, specChanged } from './naming.ts';
import { receiverMeant, receiversSlice, type ReceiversState } from './receivers.ts';
import { noticed, noticeRead, schemeSwitched, manyOpened, sourceChosen, viewSlice, type ViewState } from './view.ts';

const spec = namingSpecSchema.parse({ version: 1, rules: [{ kind: 'characters' }] });

function shelf(held: Record<string, string> = {}): Shelves['local'] & { held: Record<string, string> } {
  return { held, getItem: (key) => held[key] ?? null, setItem: (key, value) => void (held[key] = value) };
}

describe('what the Rename page works on', () => {
  const { reducer } = namingSlice;
  test('other sources keep the rules and the receiver, unless others come along', () => {
    let state = reducer(emptyNaming, namingBegun({ sources: ['a', 'b'], spec, receiver: 'plates' }));
    expect(state).toEqual({ sources: ['a', 'b'], spec, receiver: 'plates', begun: null });
    state = reducer(state, namingBegun({ sources: ['c'] }));
    expect(state).toMatchObject({ sources: ['c'], spec, receiver: 'plates' });
    expect(reducer(state, receiverChosen(null)).receiver).toBeNull();
  });

  test('a rename that began leaves no rule to do; changing one forgets it', () => {
    let state = reducer({ ...emptyNaming, sources: ['a'], spec }, namesGiven({ id: 'r', sources: ['a2'] }));
    expect(state).toMatchObject({ begun: 'r', sources: ['a2'], spec: emptySpec });
    // A copy leaves the sources as they are.
    expect(reducer(state, namesGiven({ id: 's', sources: [] })).sources).toEqual(['a2']);
    state = reducer(state, specChanged(spec));
    expect(state).toMatchObject({ begun: null, spec });
  });
});

describe('what pages share', () => {
  const { reducer } = viewSlice;
  const first: ViewState = {
    scheme: 'daylight',
    source: null,
    many: null,
    notices: [],
    seen: [],
    meant: null,
    whole: false,
  };
  test('the scheme is switched there and back; the source chosen last is kept', () => {
    const dark = reducer(first, schemeSwitched());
    expect(dark.scheme).toBe('basalt');
    expect(reducer(dark, schemeSwitched()).scheme).toBe('daylight');
    expect(reducer(first, sourceChosen('a')).source).toBe('a');
    const many = reducer(first, manyOpened('list'));
    expect([many.many, reducer(many, manyOpened(null)).many]).toEqual(['list', null]);
  });

  test('of each source the newest notice is told, five at most, the oldest first', () => {
    let state = first;
    for (const about of ['a', 'b', 'a', 'c', 'd', 'e', 'f'])
      state = reducer(state, noticed({ about, kind: 'source', sentence: `${about} is whole`, severity: 'note' }));
    expect(state.notices.map(({ about }) => about)).toEqual(['a', 'c', 'd', 'e', 'f']);
    expect(reducer(state, noticeRead()).notices.map(({ about }) => about)).toEqual(['c', 'd', 'e', 'f']);
  });
});

describe('the stage', () => {
  const { reducer } = stageSlice;
  const first = reducer(undefined, { type: 'begin' });
  test('steps stay between a source’s ends, by source, and end playing', () => {
    let state = reducer(reducer(first, playSwitched(true)), frameStepped({ source: 'a', by: 1, first: 10, last: 12 }));
    expect([state.frames.a, state.playing]).toEqual([11, false]);
    state = reducer(state, frameStepped({ source: 'a', by: 99, first: 10, last: 12 }));
    state = reducer(state, frameChosen({ source: 'b', frame: 3 }));
    expect(state.frames).toEqual({ a: 12, b: 3 });
    expect(reducer(state, frameStepped({ source: 'a', by: -99, first: 10, last: 12 })).frames.a).toBe(10);
  });

  test('what is changed leaves the rest as it was', () => {
    const state = reducer(reducer(first, lookingChanged({ exposure: 2 })), stageSet({ gain: 64 }));
    expect(state.looking).toEqual({ ...first.looking, exposure: 2 });
    expect({ ...state, looking: first.looking, gain: first.gain }).toEqual(first);
    const against = { id: 'b', alignment: { by: 'number' as const, offset: 0 }, rate: null };
    const held = reducer(first, heldAgainst({ key: 'a', against }));
    expect(Object.keys(held.against)).toEqual(['a']);
    expect(reducer(held, heldAgainst({ key: 'a', against: null })).against).toEqual({});
  });
});

test('a receiver is meant for a source; the five hundred chosen last are remembered', () => {
  const { reducer } = receiversSlice;
  let state: ReceiversState = {};
  for (let at = 0; at < 501; at += 1) state = reducer(state, receiverMeant({ source: `s${at}`, receiver: 'plates' }));
  expect(Object.keys(state)).toHaveLength(500);
  expect(state.s0).toBeUndefined();
  expect(reducer(state, receiverMeant({ source: 's500', receiver: null })).s500).toBeUndefined();
});

describe('what outlives a page that is loaded anew', () => {
  const begun = (): { shelves: Shelves; state: KeptState } => {
    const shelves = { local: shelf(), session: shelf() };
    return { shelves, state: readKept(shelves, true) };
  };

  test('comes back as it was kept; the scheme goes by the system until one is chosen', () => {
    const { shelves, state } = begun();
    expect(state.view.scheme).toBe('basalt');
    const now: KeptState = {
      view: { ...state.view, scheme: 'daylight', source: 'a' },
      naming: { sources: Array.from({ length: 3000 }, (_, at) => `s${at}`), spec, receiver: 'plates', begun: 'r' },
      receivers: { a: 'plates' },
    };
    keepChanges(shelves, state, now);
    const back = readKept(shelves, true);
    expect(back.view).toEqual({
      scheme: 'daylight',
      source: 'a',
      many: null,
      notices: [],
      seen: [],
      meant: null,
      whole: false,
    });
    expect(back.naming.sources).toHaveLength(2000);
    expect(back.naming).toMatchObject({ spec, receiver: 'plates', begun: null });
    expect(back.receivers).toEqual({ a: 'plates' });
  });

  test('only what changed is written, and a store that is full takes nobody along', () => {
    const { state } = begun();
    const [local, session] = [shelf(), shelf()];
    keepChanges({ local, session }, state, { ...state, receivers: { a: 'b' } });
    expect([Object.keys(local.held), Object.keys(session.held)]).toEqual([[], ['shale-receivers']]);
    const full = {
      getItem: () => null,
      setItem: () => {
        throw new DOMException('full', 'QuotaExceededError');
      },
    };
    expect(() => keepChanges({ local: full, session: full }, state, { ...state, receivers: {} })).not.toThrow();
  });

  test('what cannot be read is begun anew', () => {
    const session = shelf({ 'shale-naming': '{"spec": {"version": 9}}', 'shale-receivers': '[' });
    const state = readKept({ local: shelf({ 'shale-scheme': 'mauve' }), session }, false);
    expect(state).toMatchObject({ view: { scheme: 'daylight' }, naming: emptyNaming, receivers: {} });
    session.held['shale-receivers'] = '{"a": "plates", "b": 3}';
    expect(readKept({ local: shelf(), session }, false).receivers).toEqual({ a: 'plates' });
  });
});
