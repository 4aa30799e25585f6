import type { HeaderFile } from './headerFile.ts';

// Where the headers of an OpenEXR file end, and whether its last block lies within the file: the library's own header
// reading looks at neither (OpenEXR file layout: version field, headers, offset tables, blocks).

/** Scanlines of a block by the compression's number in the file: none, RLE, ZIPS, ZIP, PIZ, PXR24, B44, B44A, DWAA, DWAB. */
const blockRows = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];

const flags = { tiled: 0x200, deep: 0x800, parts: 0x1000 };

/** The longest header that is walked through. */
const mostHeader = 64 * 1024 * 1024;

/** One header's attributes that tell how many blocks there are, and where the next header begins. */
function walkHeader(file: HeaderFile, from: number): { ends: number; values: Map<string, Buffer>; empty: boolean } {
  const values = new Map<string, Buffer>();
  let at = from;
  for (;;) {
    const names = file.read(at, 512);
    if (names[0] === 0) return { ends: at + 1, values, empty: at === from };
    const nameEnd = names.indexOf(0);
    const typeEnd = names.indexOf(0, nameEnd + 1);
    if (nameEnd < 0 || typeEnd < 0 || typeEnd + 5 > names.length) throw new Error('its attributes are damaged');
    const size = names.readInt32LE(typeEnd + 1);
    if (size < 0 || at + size > mostHeader) throw new Error('its attributes are damaged');
    const value = at + typeEnd + 5;
    if (size <= 64) values.set(names.toString('latin1', 0, nameEnd), file.need(value, size));
    at = value + size;
  }
}

/** Blocks of a part without a count of its own: scanline blocks, or tiles of one level. Undefined where levels add to them. */
function blockCount(values: Map<string, Buffer>): number | undefined {
  const counted = values.get('chunkCount');
  if (counted) return counted.readInt32LE(0);
  const window = values.get('dataWindow');
  const compression = values.get('compression')?.[0];
  if (!window || compression === undefined) return undefined;
  const width = window.readInt32LE(8) - window.readInt32LE(0) + 1;
  const height = window.readInt32LE(12) - window.readInt32LE(4) + 1;
  const tiles = values.get('tiles');
  if (!tiles) return Math.ceil(height / (blockRows[compression] ?? 1));
  if ((tiles[8]! & 0xf) !== 0) return undefined;
  return Math.ceil(width / tiles.readUInt32LE(0)) * Math.ceil(height / tiles.readUInt32LE(4));
}

/** The greatest of the offsets in a table; 0 where one was never written. */
function furthest(table: Buffer): number {
  let most = 0;
  for (let at = 0; at + 8 <= table.length; at += 8) {
    const offset = table.readUInt32LE(at) + table.readUInt32LE(at + 4) * 2 ** 32;
    if (offset === 0) return 0;
    if (offset > most) most = offset;
  }
  return most;
}

/** Where the pixel blocks begin, and whether the last of them is all there; taken to be where the layout has no fixed form. */
export function exrEnd(file: HeaderFile): { dataAt: number; whole: boolean } {
  const version = file.need(4, 4).readUInt32LE(0);
  const manyParts = (version & flags.parts) !== 0;
  const headers: Map<string, Buffer>[] = [];
  let at = 8;
  for (;;) {
    const { ends, values, empty } = walkHeader(file, at);
    at = ends;
    if (empty) break;
    headers.push(values);
    // One part has one header; several are closed by an empty one.
    if (!manyParts) break;
  }
  let whole = true;
  for (const values of headers) {
    const count = blockCount(values);
    if (count === undefined || count > 10_000_000 || (version & flags.deep) !== 0) return { dataAt: at, whole: true };
    const table = file.read(at, count * 8);
    at += count * 8;
    const last = table.length < count * 8 ? 0 : furthest(table);
    if (last === 0) return { dataAt: Math.min(at, file.size), whole: false };
    const tiled = values.has('tiles');
    // Part number, then the line or the tile and its level, then the bytes that follow.
    const before = (manyParts ? 4 : 0) + (tiled ? 16 : 4);
    const head = file.read(last, before + 4);
    whole &&= head.length === before + 4 && last + before + 4 + head.readInt32LE(before) <= file.size;
  }
  return { dataAt: Math.min(at, file.size), whole };
}
