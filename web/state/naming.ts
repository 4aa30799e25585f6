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

export const emptySpec: NamingSpec = namingSpecSchema.parse({ version: 1 });
export const emptyNaming: NamingState = { sources: [], spec: emptySpec, receiver: null, begun: null };

export const namingSlice = createSlice({
  name: 'naming',
  initialState: emptyNaming,
  reducers: {
    /** Takes other sources, with rules and a receiver where they come along, as they are otherwise. */
    namingBegun(state, { payload }: PayloadAction<{ sources: string[]; spec?: NamingSpec; receiver?: string }>) {
      state.sources = payload.sources;
      if (payload.spec) state.spec = payload.spec;
      if (payload.receiver !== undefined) state.receiver = payload.receiver;
      state.begun = null;
    },
    specChanged(state, { payload }: PayloadAction<NamingSpec>) {
      state.spec = payload;
      state.begun = null;
    },
    receiverChosen(state, { payload }: PayloadAction<string | null>) {
      state.receiver = payload;
    },
    /** A rename began, or was undone: the sources have other ids now, and no rule is left to do. */
    namesGiven(state, { payload }: PayloadAction<{ id: string; sources: string[] }>) {
      state.begun = payload.id;
      if (payload.sources.length > 0) state.sources = payload.sources;
      state.spec = emptySpec;
    },
  },
});

export const { namingBegun, specChanged, receiverChosen, namesGiven } = namingSlice.actions;
