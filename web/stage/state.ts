import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { plainLooking, type Alignment, type Box, type Looking, type Rate } from '@shale/core';
import type { Zoom } from './place.ts';

/** What lies behind a picture. */
export type StageBackground =
  | { kind: 'checker' | 'black' | 'white' | 'grey' }
  | { kind: 'colour'; colour: string }
  | { kind: 'source'; id: string };

/** A sound that is heard with a source: the id of its own source, and by how many frames and samples it begins later. */
export interface ChosenSound {
  id: string;
  offset: number;
  later: number;
  /** Which of its streams of sound, from 1; null for the one that a player takes. */
  stream: number | null;
}

/** How two sources are shown together. */
export type CompareMode = 'wipe' | 'side' | 'difference' | 'blink';

/** What a source is held against. */
export interface Against {
  /** A source's id; that of the source itself compares it with itself at another rate. */
  id: string;
  alignment: Alignment;
  /** The rate that it plays at; null for its own. */
  rate: Rate | null;
}

/** What the stage shows, one state for every page that has it. */
export interface StageState {
  /** The frame asked for, by source. */
  frames: Record<string, number>;
  looking: Looking;
  background: StageBackground;
  playing: boolean;
  /** Back and forth, in place of around and around. */
  returns: boolean;
  halfSpeed: boolean;
  /** Of the source that was zoomed last; whole where another is shown. */
  zoom: { source: string; zoom: Zoom } | null;
  /** Whether sound is heard, where there is one. */
  hears: boolean;
  /** The sound that was chosen for a source, by its id; null for none. Absent for its own. */
  sounds: Record<string, ChosenSound | null>;
  /** What is played of a source in place of all of it, by its id. */
  ranges: Record<string, { first: number; last: number }>;
  /** A box of the source that was measured last, in its pixels. */
  region: { source: string; box: Box } | null;
  /** By source, or by another key where a page holds a source against something of its own. */
  against: Record<string, Against>;
  mode: CompareMode;
  /** Where the wipe stands, 0 to 1 across the stage. */
  wipe: number;
  /** What differences are multiplied by. */
  gain: number;
}

const initialState: StageState = {
  frames: {},
  looking: plainLooking,
  background: { kind: 'checker' },
  playing: false,
  returns: false,
  hears: true,
  sounds: {},
  ranges: {},
  halfSpeed: false,
  zoom: null,
  region: null,
  against: {},
  mode: 'wipe',
  wipe: 0.5,
  gain: 8,
};

/** Settings that a control sets alone. */
type Setting = 'background' | 'hears' | 'returns' | 'halfSpeed' | 'zoom' | 'region' | 'mode' | 'wipe' | 'gain';

export const stageSlice = createSlice({
  name: 'stage',
  initialState,
  reducers: {
    frameChosen(state, { payload }: PayloadAction<{ source: string; frame: number }>) {
      state.frames[payload.source] = payload.frame;
      state.playing = false;
    },
    /** By so many frames from where the stage stands, within a source's first and last. */
    frameStepped(state, { payload }: PayloadAction<{ source: string; by: number; first: number; last: number }>) {
      const { source, by, first, last } = payload;
      state.frames[source] = Math.min(last, Math.max(first, (state.frames[source] ?? first) + by));
      state.playing = false;
    },
    frameReached(state, { payload }: PayloadAction<{ source: string; frame: number }>) {
      state.frames[payload.source] = payload.frame;
    },
    lookingChanged(state, { payload }: PayloadAction<Partial<Looking>>) {
      Object.assign(state.looking, payload);
    },
    stageSet(state, { payload }: PayloadAction<Partial<Pick<StageState, Setting>>>) {
      Object.assign(state, payload);
    },
    soundChosen(state, { payload: { source, sound } }: PayloadAction<{ source: string; sound: ChosenSound | null }>) {
      state.sounds[source] = sound;
    },
    /** Marks the first or last frame of what is played; null plays all again. */
    rangeMarked(
      state,
      { payload: { source, range } }: PayloadAction<{ source: string; range: { first: number; last: number } | null }>,
    ) {
      if (range) state.ranges[source] = range;
      else delete state.ranges[source];
    },
    heldAgainst(state, { payload: { key, against } }: PayloadAction<{ key: string; against: Against | null }>) {
      if (against) state.against[key] = against;
      else delete state.against[key];
    },
    playSwitched(state, { payload }: PayloadAction<boolean>) {
      state.playing = payload;
    },
  },
});

export const {
  frameChosen,
  frameStepped,
  frameReached,
  lookingChanged,
  stageSet,
  soundChosen,
  rangeMarked,
  heldAgainst,
  playSwitched,
} = stageSlice.actions;
