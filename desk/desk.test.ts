import sharp from 'sharp';
import { counters, judge, lookAt, openDesk } from './index.ts';

/** An animation that another library made: discs on a clear ground. */
async function made(format: 'gif' | 'webp', { side = 40, pictures = 6, delay = 40, loop = 0 } = {}): Promise<Buffer> {
  const data = new Uint8Array(side * side * pictures * 4);
  for (let at = 0; at < side * side * pictures; at += 1) {
    const [x, y, picture] = [at % side, Math.floor(at / side) % side, Math.floor(at / side / side)];
    if ((x - 4 * picture) ** 2 + (y - side / 2) ** 2 < 60) data.set([200, 90, 30, 255], at * 4);
  }
  const image = sharp(data, { raw: { width: side, height: side * pictures, channels: 4, pageHeight: side } as never });
  return format === 'gif'
    ? image.gif({ delay: Array.from({ length: pictures }, () => delay), loop }).toBuffer()
    : image.webp({ delay: Array.from({ length: pictures }, () => delay), loop }).toBuffer();
}

test.each(['gif', 'webp'] as const)('%s: what another library wrote is seen as it was meant', async (format) => {
  expect(lookAt(await made(format))).toMatchObject({ format, width: 40, height: 40, pictures: 6, plays: 0 });
  expect(lookAt(await made(format))!.seconds).toBeCloseTo(0.24, 6);
  expect(lookAt(await made(format, { loop: 3 }))!.plays).toBeGreaterThan(1);
});

test('everything that is wrong is named; what is cut short is no file', async () => {
  const file = await made('gif', { side: 130, delay: 3000, loop: 2 });
  const { taken, reasons } = judge(file, { ...counters['small-sign']!, bytes: 100 });
  expect(taken).toBe(false);
  expect(reasons).toEqual([
    'It has 130 x 130 pixels, and 112 is the limit of a side.',
    expect.stringMatching(/^It has [\d,]+ bytes; the limit is 100\.$/),
    'It plays for 18.00 s, and 6 s are the most.',
    expect.stringMatching(/^It plays \d times, and has to play for ever\.$/),
  ]);
  expect(judge(file.subarray(0, file.length - 5), counters.sticker!)).toEqual({
    taken: false,
    reasons: ['It is not a complete GIF, animated PNG or animated WebP.'],
  });
  for (const bytes of [Buffer.from(''), Buffer.from('GIF89a'), Buffer.from('RIFF....WEBP'), Buffer.from('\x89PNG')])
    expect(judge(bytes, counters.sticker!).reasons).toEqual([
      'It is not a complete GIF, animated PNG or animated WebP.',
    ]);
});

test('by HTTP: taken with 200, refused with 422 and reasons, an unknown counter 404', async () => {
  const desk = await openDesk();
  try {
    const hand = async (name: string, body: Buffer) => {
      const answer = await fetch(`${desk.url}/counters/${name}`, { method: 'POST', body: new Uint8Array(body) });
      return [answer.status, (await answer.json()) as { taken: boolean; reasons: string[] }] as const;
    };
    expect(await hand('sticker', await made('gif'))).toMatchObject([200, { taken: true, reasons: [] }]);
    expect((await hand('small-sign', await made('webp', { side: 120 })))[0]).toBe(422);
    expect((await hand('none', await made('gif')))[0]).toBe(404);
    expect(Object.keys((await (await fetch(`${desk.url}/counters`)).json()) as object)).toEqual(Object.keys(counters));
  } finally {
    await desk.close();
  }
});
