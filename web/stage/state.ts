import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export type StageView = 'colour' | 'alpha';
export type StageBackground = 'checker' | 'black' | 'white' | 'grey';

/** What the stage shows, one state for every page that has it. */
export interface StageState {
  /** The frame asked for, by source. */
  frames: Record<string, number>;
  view: StageView;
  background: StageBackground;
  playing: boolean;
}

const initialState: StageState = { frames: {}, view: 'colour', background: 'checker', playing: false };

export const stageSlice = createSlice({
  name: 'stage',
  initialState,
  reducers: {
    frameChosen(state, { payload }: PayloadAction<{ source: string; frame: number }>) {
      state.frames[payload.source] = payload.frame;
      state.playing = false;
    },
    frameReached(state, { payload }: PayloadAction<{ source: string; frame: number }>) {
      state.frames[payload.source] = payload.frame;
    },
    viewChosen(state, { payload }: PayloadAction<StageView>) {
      state.view = payload;
    },
    backgroundChosen(state, { payload }: PayloadAction<StageBackground>) {
      state.background = payload;
    },
    playSwitched(state, { payload }: PayloadAction<boolean>) {
      state.playing = payload;
    },
  },
});

export const { frameChosen, frameReached, viewChosen, backgroundChosen, playSwitched } = stageSlice.actions;
