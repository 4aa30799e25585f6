/** What a compiled form of core's loops over pixels looks up: the very tables and places that core itself does. */
export { canvasAlpha, lightTable, valueTable } from './pixels/canvas.ts';
export { blueNoiseThresholds, orderedThresholds } from './pixels/dither.ts';
export type { End } from './pixels/ending.ts';
export type { Kernel, WorkJob } from './pixels/kernel.ts';
export { sightOf, strongest } from './pixels/key.ts';
export { belowPicture } from './pixels/layOver.ts';
export { tapsFor } from './pixels/resample.ts';
export type { Course, Step } from './pixels/steps.ts';
export type { Size } from './pixels/picture.ts';
export { quickToLinear } from './pixels/transfer.ts';
export { displayParts, displayTable } from './viewing/show.ts';
export { clearShows, gatherPlainly, type Gather } from './viewing/view.ts';
