import { open } from 'node:fs/promises';
import { ShaleError } from '@shale/core';
import { nameOfFile, placeOfFile } from '../heldFiles.ts';

/** Sizes by which a writer says that it does not know one: a stream's, and one that was broken off before it was filled in. */
const unknown = new Set([0, 0xffffffff]);

/**
 * Refuses a WAVE file (RIFF; Multimedia Programming Interface and Data Specifications 1.0) whose `data` chunk says more bytes than
 * are there: what libraries read of it is as long as the file, and nothing tells that the rest is lost.
 * @throws ShaleError `truncated-file`
 */
export async function refuseCutWave(path: string): Promise<void> {
  const file = await open(path);
  try {
    const { size } = await file.stat();
    const head = Buffer.alloc(12);
    await file.read(head, 0, 12, 0);
    if (head.toString('latin1', 0, 4) !== 'RIFF' || head.toString('latin1', 8, 12) !== 'WAVE') return;
    for (let at = 12; at + 8 <= size;) {
      await file.read(head, 0, 8, at);
      const says = head.readUInt32LE(4);
      if (head.toString('latin1', 0, 4) === 'data') {
        const there = size - at - 8;
        if (says <= there || unknown.has(says)) return;
        throw new ShaleError({
          code: 'truncated-file',
          fact: `${nameOfFile(path)} is cut short: its header says ${says.toLocaleString('en-GB')} bytes of sound, and ${there.toLocaleString('en-GB')} are there.`,
          wayOut: 'Make it or copy it again.',
          subject: placeOfFile(path),
        });
      }
      // Chunks begin at even places.
      at += 8 + says + (says % 2);
    }
  } finally {
    await file.close();
  }
}
