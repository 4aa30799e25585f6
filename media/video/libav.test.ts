import { avGetPixFmtFromName, Frame } from 'node-av';
import { fillFrame } from './libav.ts';

test('a frame holds its own samples, whatever becomes of the bytes that it was made of', () => {
  const bytes = Buffer.alloc(64 * 36 * 6, 7);
  const frame = new Frame();
  try {
    fillFrame(frame, { width: 64, height: 36, format: avGetPixFmtFromName('gbrp10le'), bytes });
    bytes.fill(9);
    expect(frame.toBuffer().every((value) => value === 7)).toBe(true);
  } finally {
    frame.free();
  }
});
