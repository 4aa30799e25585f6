import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { drawBellTurn } from './scenes/bell-turn.ts';
import { drawConductorWalk } from './scenes/conductor-walk.ts';
import { drawDepotPan } from './scenes/depot-pan.ts';
import { drawLines } from './scenes/lines.ts';
import { drawLostProperty } from './scenes/lost-property.ts';
import { drawNightRun, drawPlatformPlate } from './scenes/movies.ts';
import { drawTicketLoop } from './scenes/ticket-loop.ts';
import { drawTimetableScan } from './scenes/timetable-scan.ts';
import { drawYardCams } from './scenes/yard-cams.ts';
import { mix, writeWav } from './wave.ts';

/** Draws scenes of the demo: one for each name that it is sent, into the folder that goes with it, told when it is drawn. */
const scenes: Record<string, (into: (path: string) => string) => Promise<void>> = {
  depot_pan: (into) => drawDepotPan(into('plates/depot_pan')),
  bell_turn: (into) => drawBellTurn(into('turntables/bell_turn')),
  yard_cams: (into) => drawYardCams((shot) => into(`yard_cams/${shot}`)),
  platform_plate: (into) => drawPlatformPlate(into('plates')),
  night_run: (into) => drawNightRun(into('plates')),
  ticket_loop: (into) => drawTicketLoop(into('turntables/ticket_loop_60fps')),
  conductor_walk: (into) => drawConductorWalk(into('walks/conductor_walk_12fps')),
  timetable_scan: (into) => drawTimetableScan(into('plates/timetable_scan')),
  lines: (into) => drawLines((line) => into(`lines/${line}`)),
  lost_property: (into) => drawLostProperty(into('workshop/lost_property')),
  announcement: (into) =>
    writeWav(
      join(into('sounds'), 'announcement.wav'),
      mix(4, [
        { at: 0.2, pitch: 659, level: 0.9 },
        { at: 0.9, pitch: 523, level: 0.9 },
        { at: 1.6, pitch: 587, level: 0.8 },
        { at: 2.3, pitch: 392, level: 1 },
      ]),
    ),
};

process.on('message', ({ name, folder }: { name: string; folder: string }) => {
  void scenes[name]!((path) => {
    const whole = join(folder, path);
    mkdirSync(whole, { recursive: true });
    return whole;
  }).then(() => process.send!(name));
});
