import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { namingSpecSchema, type NamingSpec } from '@shale/core';

/** What the Rename page works on; kept while the window is open. */
export interface NamingState {
  /** Ids of the sources, in their order. */
  sources: string[];
  spec: NamingSpec;
  /** The receiver that names are held against. */
  receiver: string | null;
  /** The rename that was just begun here, until something is changed. */
  begun: string | null;
}

const place = 'shale-naming';
export const emptySpec: NamingSpec = namingSpecSchema.parse({ version: 1 });

function kept(): NamingState {
  try {
    const said = JSON.parse(sessionStorage.getItem(place) ?? '{}') as Partial<NamingState>;
    return {
      sources: said.sources ?? [],
      spec: namingSpecSchema.parse(said.spec ?? { version: 1 }),
      receiver: said.receiver ?? null,
      begun: null,
    };
  } catch {
    return { sources: [], spec: emptySpec, receiver: null, begun: null };
  }
}

/** Ids that are still kept when the page is loaded anew: thousands would fill the browser's store. */
const mostKept = 2000;

const keep = ({ sources, spec, receiver }: NamingState) =>
  sessionStorage.setItem(place, JSON.stringify({ sources: sources.slice(0, mostKept), spec, receiver }));

export const namingSlice = createSlice({
  name: 'naming',
  initialState: kept,
  reducers: {
    /** Takes other sources, with rules and a receiver where they come along, as they are otherwise. */
    namingBegun(state, { payload }: PayloadAction<{ sources: string[]; spec?: NamingSpec; receiver?: string }>) {
      state.sources = payload.sources;
      if (payload.spec) state.spec = payload.spec;
      if (payload.receiver !== undefined) state.receiver = payload.receiver;
      state.begun = null;
      keep(state);
    },
    specChanged(state, { payload }: PayloadAction<NamingSpec>) {
      state.spec = payload;
      state.begun = null;
      keep(state);
    },
    receiverChosen(state, { payload }: PayloadAction<string | null>) {
      state.receiver = payload;
      keep(state);
    },
    /** A rename began, or was undone: the sources have other ids now, and no rule is left to do. */
    namesGiven(state, { payload }: PayloadAction<{ id: string; sources: string[] }>) {
      state.begun = payload.id;
      if (payload.sources.length > 0) state.sources = payload.sources;
      state.spec = emptySpec;
      keep(state);
    },
  },
});

export const { namingBegun, specChanged, receiverChosen, namesGiven } = namingSlice.actions;
