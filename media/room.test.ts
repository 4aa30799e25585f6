import { mkdtemp, rm, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { doneWith, roomFor, withBytes } from './room.ts';

test('room is taken again by the next of the same size, once, and by no other', () => {
  const first = roomFor('u16', 4801, 7);
  doneWith({ data: first });
  // Given back twice it is there once.
  doneWith({ data: first });
  expect(roomFor('u16', 4800, 7).buffer).not.toBe(first.buffer);
  const [second, third] = [roomFor('u16', 4801, 7), roomFor('u16', 4801, 7)];
  expect(second.buffer).toBe(first.buffer);
  expect(third.buffer).not.toBe(first.buffer);
  expect([second.length, second.byteLength, second.buffer.byteLength]).toEqual([4801, 9602, 9609]);
});

test('what was not handed out is not taken in', () => {
  const own = new Float32Array(1234);
  doneWith({ data: own });
  expect(roomFor('f32', 1234).buffer).not.toBe(own.buffer);
});

test('only so much is kept as is likely to be asked for', () => {
  const many = Array.from({ length: 40 }, () => roomFor('u8', 54_321));
  for (const data of many) doneWith({ data });
  const again = Array.from({ length: 40 }, () => roomFor('u8', 54_321));
  const kept = again.filter(({ buffer }) => many.some((one) => one.buffer === buffer));
  expect(kept.length).toBeGreaterThan(0);
  expect(kept.length).toBeLessThanOrEqual(16);
});

describe('bytes of a file', () => {
  let folder: string;
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'shale-room-'));
  });
  afterAll(() => rm(folder, { recursive: true }));

  test('are those that it holds now, whatever was read into the room before', async () => {
    const path = join(folder, 'bell');
    for (const text of ['a longer text than the next', 'short', '', 'and long again, longer than all before it']) {
      await writeFile(path, text);
      expect(await withBytes(path, (bytes) => bytes.toString())).toBe(text);
    }
  });

  test('two at once have room of their own; a file that is cut meanwhile has fewer', async () => {
    const [one, two] = [join(folder, 'one'), join(folder, 'two')];
    await writeFile(one, 'x'.repeat(5000));
    await writeFile(two, 'y'.repeat(5000));
    const read = (path: string) => withBytes(path, (bytes) => bytes.toString('latin1'));
    expect(await Promise.all([read(one), read(two)])).toEqual(['x'.repeat(5000), 'y'.repeat(5000)]);
    await truncate(one, 10);
    expect(await read(one)).toBe('x'.repeat(10));
    await expect(withBytes(join(folder, 'gone'), String)).rejects.toMatchObject({ code: 'ENOENT' });
    await expect(withBytes(two, () => Promise.reject(new Error('damaged')))).rejects.toThrow('damaged');
  });
});
