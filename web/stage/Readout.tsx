import Box from '@mui/material/Box';
import {
  channelLetters,
  isFloat,
  maxCode,
  printSample,
  samplesAt,
  takenAs,
  unpackPiece,
  type Image,
  type Piece,
} from '@shale/core';
import type { Pane, Point } from './panes.ts';
import { pieceAt } from './place.ts';
import { tag } from './StageOver.tsx';

/** Pieces that were unpacked, by their bytes. */
const unpacked = new WeakMap<Uint8Array, Piece>();

/** A pane whose pixel is read. */
type Read = Pane & { pixel: Point };

/** A picture's samples of a pixel, where the piece that it lies in is here. */
function valuesOf({ side, pixel }: Read): { image: Image; values: number[] } | undefined {
  const bytes = side.pieces?.loadedOf(pieceAt(pixel));
  if (!bytes) return undefined;
  let piece = unpacked.get(bytes);
  if (!piece) unpacked.set(bytes, (piece = unpackPiece(bytes)));
  const [x, y] = [pixel.x - piece.left, pixel.y - piece.top];
  if (x >= piece.image.width || y >= piece.image.height) return undefined;
  return { image: piece.image, values: samplesAt(piece.image, x, y) };
}

/** How far two pixels lie apart, in steps of the coarser; undefined where their values are not of one kind. */
function apartWords(a: Read, b: Read): string | undefined {
  const [left, right] = [valuesOf(a), valuesOf(b)];
  if (!left || !right || left.values.length !== right.values.length) return undefined;
  const [one, other] = [takenAs(a.side.source.declaration), takenAs(b.side.source.declaration)];
  if (one.transfer !== other.transfer || one.primaries !== other.primaries || one.alpha !== other.alpha)
    return undefined;
  const [maxA, maxB] = [maxCode(left.image.sample), maxCode(right.image.sample)];
  const apart = left.values.map((value, at) => Math.abs(value / (maxA ?? 1) - right.values[at]! / (maxB ?? 1)));
  const most = Math.max(...apart);
  if (Number.isNaN(most)) return undefined;
  if (most === 0) return 'the same';
  const codes = [maxA, maxB].filter((max) => max !== undefined);
  if (codes.length === 0) return `off by ${Number(most.toPrecision(3))} at most`;
  const steps = most * Math.min(...codes);
  return `off by ${steps.toFixed(2)} ${steps < 1 ? 'of a step' : 'steps'} at most`;
}

/** The values of a pixel as they are told. */
function readWords(read: Read, label: string): string {
  const found = valuesOf(read);
  if (!found) {
    const isRefused = read.side.pieces?.get(pieceAt(read.pixel)).state === 'failed';
    return [label, isRefused ? 'cannot be read' : 'reading'].filter(Boolean).join(' ');
  }
  const { image, values } = found;
  const text = values.map((value) => printSample(value, isFloat(image.sample))).join(' ');
  return [label, channelLetters(image.channels).join(''), text].filter(Boolean).join(' ');
}

/** The pixel under the pointer, in the files' own values; nothing while none is read. */
export function Readout({ panes, labels }: { panes: readonly Pane[]; labels: readonly string[] }) {
  const reads = panes.filter((pane): pane is Read => pane.pixel !== undefined);
  const [first, second] = reads;
  if (!first) return null;
  const apart = second && apartWords(first, second);
  return (
    <Box
      data-testid="readout"
      sx={{ ...tag, left: 10, right: 10, bottom: 10, display: 'flex', flexWrap: 'wrap', columnGap: 2.5, p: '5px 10px' }}
    >
      <span>{`x ${first.pixel.x} y ${first.pixel.y}`}</span>
      {reads.map((read, at) => (
        <span key={labels[at]}>{readWords(read, labels[at]!)}</span>
      ))}
      {apart && <span>{apart}</span>}
    </Box>
  );
}
