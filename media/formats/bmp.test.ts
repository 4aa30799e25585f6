import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { probeStill, readStill } from './index.ts';

// Files by a plain writer of the test's own (BITMAPINFOHEADER; run-length coding after the format's own description).
const folder = mkdtempSync(join(tmpdir(), 'shale-bmp-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const [width, height] = [13, 5];
const palette = Array.from({ length: 256 }, (_, at) => [(at * 37) & 255, (at * 101) & 255, (at * 7) & 255]);
const placesOf = (colours: number) =>
  Array.from({ length: height }, (_, y) => Array.from({ length: width }, (_, x) => ((x >> 1) * 31 + y * 3) % colours));

function put(name: string, bits: number, compression: number, colours: number, data: number[]): string {
  const dataAt = 54 + colours * 4;
  const head = Buffer.alloc(dataAt);
  head.write('BM', 0, 'latin1');
  head.writeUInt32LE(dataAt + data.length, 2);
  head.writeUInt32LE(dataAt, 10);
  head.writeUInt32LE(40, 14);
  head.writeInt32LE(width, 18);
  head.writeInt32LE(height, 22);
  head.writeUInt16LE(1, 26);
  head.writeUInt16LE(bits, 28);
  head.writeUInt32LE(compression, 30);
  head.writeUInt32LE(data.length, 34);
  head.writeUInt32LE(colours, 46);
  palette.slice(0, colours).forEach(([red, green, blue], at) => {
    head.writeUInt8(blue!, 54 + at * 4);
    head.writeUInt8(green!, 55 + at * 4);
    head.writeUInt8(red!, 56 + at * 4);
  });
  const path = join(folder, name);
  writeFileSync(path, Buffer.concat([head, Buffer.from(data)]));
  return path;
}
const shown = (places: number[][]) => places.flat().flatMap((place) => palette[place]!);
/** Rows from the bottom, each with an end, then the end of all. */
const rows = (places: number[][], row: (places: number[]) => number[]) => [
  ...[...places].reverse().flatMap((one) => [...row(one), 0, 0]),
  ...[0, 1],
];

test('run-length coded 8 bits: runs, stretches as they are, the end of a row', async () => {
  const places = placesOf(200);
  const data = rows(places, (row) => [
    ...[2, row[0]!, 2, row[2]!],
    ...[0, 5, ...row.slice(4, 9), 0],
    ...row.slice(9).flatMap((place) => [1, place]),
  ]);
  const path = put('runs8.bmp', 8, 1, 200, data);
  expect(await probeStill(path)).toMatchObject({ width, height, format: 'bmp', compression: 'RLE' });
  const image = await readStill(path);
  expect(image).toMatchObject({ width, height, channels: 3, sample: 'u8' });
  expect([...image.data]).toEqual(shown(places));
});

test('run-length coded 4 bits', async () => {
  const places = placesOf(16);
  const path = put(
    'runs4.bmp',
    4,
    2,
    16,
    rows(places, (row) => row.flatMap((place) => [1, place << 4])),
  );
  expect([...(await readStill(path)).data]).toEqual(shown(places));
});

test.each([
  [1, 2],
  [4, 16],
  [8, 256],
])('a palette with %i bits', async (bits, colours) => {
  const places = placesOf(colours);
  const data = [...places].reverse().flatMap((row) => {
    const bytes = Array<number>(Math.ceil((width * bits) / 32) * 4).fill(0);
    row.forEach((place, x) => (bytes[(x * bits) >> 3]! |= place << (8 - bits - ((x * bits) & 7))));
    return bytes;
  });
  expect([...(await readStill(put(`plain${bits}.bmp`, bits, 0, colours, data))).data]).toEqual(shown(places));
});

test('a colour that the palette lacks, and runs that are cut short, are refused by name', async () => {
  const places = placesOf(200);
  const plain = [...places].reverse().flatMap((row) => [...row, 0, 0, 0]);
  await expect(readStill(put('beyond.bmp', 8, 0, 100, plain))).rejects.toThrow(/beyond\.bmp.*outside its palette/);
  const runs = rows(places, (row) => row.flatMap((place) => [1, place]));
  const torn = put('torn.bmp', 8, 1, 200, runs.slice(0, -2));
  await expect(readStill(torn)).rejects.toThrow(/torn\.bmp.*run-length data is damaged/);
  const wide = put('wide.bmp', 8, 1, 200, [200, 1, ...runs]);
  await expect(readStill(wide)).rejects.toThrow(/wide\.bmp.*leaves its row/);
});
