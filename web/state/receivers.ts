import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

/** For which receiver each source is meant, by its id: what Inspect and Convert hold it against. */
export type ReceiversState = Record<string, string>;

/** Sources that are remembered; the one that was chosen for first goes first. */
const most = 500;

const none: ReceiversState = {};

export const receiversSlice = createSlice({
  name: 'receivers',
  initialState: none,
  reducers: {
    receiverMeant(state, { payload }: PayloadAction<{ source: string; receiver: string | null }>) {
      delete state[payload.source];
      if (payload.receiver !== null) state[payload.source] = payload.receiver;
      for (const old of Object.keys(state).slice(0, -most)) delete state[old];
    },
  },
});

export const { receiverMeant } = receiversSlice.actions;
