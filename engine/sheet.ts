import { cellPixels, drawSheet, lookView, type SheetLayout } from '@shale/media';
import { plainLooking, printTimecode, ShaleError, showView, takenAs, type Declaration, type Rate } from '@shale/core';
import { readShown, type ShownFile } from './shown.ts';

/** A frame of a contact sheet. */
export interface SheetCell {
  file: ShownFile;
  frame: number;
  name: string;
  /** Of its marker. */
  number: number | null;
  /** Its frame counted as timecode. */
  seconds: { frame: number; rate: Rate } | null;
}

/** What goes onto a contact sheet. */
export interface ToSheet extends SheetLayout {
  cells: SheetCell[];
  declaration: Declaration;
}

/** A contact sheet's bytes. A frame that cannot be read is shown as such. @throws ShaleError where none can */
export async function makeSheet({ cells, declaration, ...layout }: ToSheet, signal?: AbortSignal): Promise<Uint8Array> {
  const width = cellPixels(layout.columns);
  const drawn = [];
  let first: unknown;
  for (const { file, frame, name, number, seconds } of cells) {
    if (signal?.aborted) return new Uint8Array();
    const line = [
      ...(number === null ? [] : [`#${number}`]),
      String(frame),
      ...(seconds && seconds.frame >= 0 ? [printTimecode(seconds.frame, seconds.rate)] : []),
    ].join('  ');
    try {
      const view = lookView(await readShown(file), takenAs(declaration), width);
      const picture = { width: view.width, height: view.height, data: showView(view, plainLooking) };
      drawn.push({ picture, name, line });
    } catch (error) {
      if (!(error instanceof ShaleError)) throw error;
      first ??= error;
      drawn.push({ picture: null, name: name || 'cannot be read', line });
    }
  }
  const sample = drawn.find(({ picture }) => picture !== null)?.picture;
  if (!sample) throw first;
  const empty = {
    width: sample.width,
    height: sample.height,
    data: new Uint8ClampedArray(sample.width * sample.height * 4),
  };
  return drawSheet(
    drawn.map((cell) => ({ ...cell, picture: cell.picture ?? empty })),
    layout,
  );
}
