import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { probeSound } from './clip.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-wave-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** A second of 16-bit sound at 8 kHz. @param says bytes that its header says @param more a chunk before the sound */
async function wave(says: number, more = Buffer.alloc(0)): Promise<string> {
  const head = Buffer.alloc(36);
  head.write('RIFF', 0, 'latin1');
  head.write('WAVEfmt ', 8, 'latin1');
  head.writeUInt32LE(16, 16);
  head.writeUInt16LE(1, 20);
  head.writeUInt16LE(1, 22);
  head.writeUInt32LE(8000, 24);
  head.writeUInt32LE(16_000, 28);
  head.writeUInt16LE(2, 32);
  head.writeUInt16LE(16, 34);
  const data = Buffer.alloc(8);
  data.write('data', 0, 'latin1');
  data.writeUInt32LE(says, 4);
  const path = join(folder, `${says}-${more.length}.wav`);
  await writeFile(path, Buffer.concat([head, more, data, Buffer.alloc(16_000, 1)]));
  return path;
}

test('a sound whose header says more than is there is cut short; one that does not know is as long as it is', async () => {
  for (const says of [16_000, 0xffffffff])
    expect((await probeSound(await wave(says))).seconds).toEqual({ num: 1, den: 1 });
  await expect(probeSound(await wave(64_000))).rejects.toMatchObject({
    code: 'truncated-file',
    fact: '64000-0.wav is cut short: its header says 64,000 bytes of sound, and 16,000 are there.',
  });
  // An odd chunk before it is padded to an even place.
  const odd = Buffer.from('junk\u0003\0\0\0abc\0', 'latin1');
  expect((await probeSound(await wave(16_000, odd))).seconds).toEqual({ num: 1, den: 1 });
  await expect(probeSound(await wave(16_002, odd))).rejects.toMatchObject({ code: 'truncated-file' });
});
