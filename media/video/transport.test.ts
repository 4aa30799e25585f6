import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CodecContext } from 'node-av';
import { clipFindings, framesOf, ShaleError } from '@shale/core';
import { probeClip } from './clip.ts';
import { ClipReader } from './clipReader.ts';
import { numberIn, writeTestClip } from './testClips.ts';

// Transport streams of which packets are lost: what is given is what was sent, by its own number, or it is refused.
const count = 60;
const packet = 188;
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-transport-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Every picture of a file as bytes, null where it is refused. */
async function picturesIn(path: string): Promise<({ number: number; bytes: Buffer } | null)[]> {
  const reader = await ClipReader.open(path);
  const all: ({ number: number; bytes: Buffer } | null)[] = [];
  try {
    for (let at = 0; at < reader.count; at += 1) {
      const image = await reader.picture(at).catch((error: unknown) => {
        expect(error).toBeInstanceOf(ShaleError);
        expect((error as ShaleError).code).toBe('damaged-frame');
        return null;
      });
      all.push(image && { number: numberIn(image), bytes: Buffer.from(image.data) });
    }
  } finally {
    await reader.close();
  }
  return all;
}

describe.each([
  ['H.264 without B-frames', 'libx264', { g: '12', bf: '0', crf: '14' }],
  ['H.264 with B-frames', 'libx264', { g: '15', bf: '3', crf: '14' }],
  ['MPEG-2', 'mpeg2video', { g: '12', b: '3000000' }],
])('%s', (name, encoder, options: Record<string, string>) => {
  let sent: Buffer;
  let meant: ({ number: number; bytes: Buffer } | null)[];
  const path = (which: string) => join(folder, `${name.replace(/\W+/g, '_')}_${which}.ts`);
  beforeAll(async () => {
    await writeTestClip(path('whole'), {
      ...{ count, encoder, options, container: 'mpegts', time: (at: number) => at },
      set: (context) => (context.timeBase = { num: 1, den: 25 } as CodecContext['timeBase']),
    });
    sent = await readFile(path('whole'));
    meant = await picturesIn(path('whole'));
  });

  test('whole, all pictures come and nothing is found', async () => {
    expect(meant.map((one) => one?.number)).toEqual(Array.from({ length: count }, (_, at) => at));
    expect(clipFindings((await probeClip(path('whole'))).facts)).toEqual([]);
  });

  test.each([
    [0.3, 1],
    [0.5, 4],
    [0.55, 15],
    [0.6, 40],
  ])('from %d of it on %d packets are lost', async (share, lost) => {
    const packets = sent.length / packet;
    const from = Math.floor(packets * share) * packet;
    const file = path(`lost_${lost}`);
    await writeFile(file, Buffer.concat([sent.subarray(0, from), sent.subarray(from + lost * packet)]));
    const found = await picturesIn(file);
    const given = found.filter((one) => one !== null);
    expect(given.length).toBeGreaterThan(count / 3);
    for (const { number, bytes } of given) expect(bytes.equals(meant[number]!.bytes)).toBe(true);
    const numbers = given.map(({ number }) => number);
    expect(numbers).toEqual([...new Set(numbers)].sort((a, b) => a - b));
    const { facts } = await probeClip(file);
    expect(facts.rate).toEqual({ num: 25, den: 1 });
    // What is refused without a decoder's word is what the scan tells of.
    for (const at of framesOf(facts.clip!.torn)) expect(found[at]).toBeNull();
    if (numbers.length < count) expect(clipFindings(facts).length).toBeGreaterThan(0);
  });

  test('broken off within a packet, it is cut short', async () => {
    await writeFile(path('cut'), sent.subarray(0, Math.floor(sent.length / packet / 2) * packet + 77));
    const { facts } = await probeClip(path('cut'));
    expect(clipFindings(facts).map(({ code }) => code)).toContain('cut-short');
    for (const one of await picturesIn(path('cut')))
      if (one) expect(one.bytes.equals(meant[one.number]!.bytes)).toBe(true);
  });
});
