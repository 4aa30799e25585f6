import type { RefObject } from 'react';
import { useAppSelector } from '../state/store.ts';
import { pictureAt, shapeOf } from './frames.ts';
import { layOut, needsPieces, scaled, type Laid, type Pane, type Point } from './panes.ts';
import { pieceAt, piecesIn, pixelUnder } from './place.ts';
import { usePieces, type Side } from './useSide.ts';
import { useStagePointer, type Pointed } from './useStagePointer.ts';
import type { Shown } from './useShown.ts';

interface Options {
  box: RefObject<HTMLDivElement | null>;
  /** Whether the pointer is the stage's: not while something drawn over the picture takes it. */
  takesPointer: boolean;
  /** Called when a box was drawn to be measured. */
  onMeasured?: () => void;
}

/** Lays out what is shown, lets it be zoomed and read, and fetches the parts that are wanted in their own samples. */
export function usePanes(
  { first, second, areas, mode, width, ratio }: Shown,
  { box, takesPointer, onMeasured }: Options,
): { panes: Pane[]; pointer: Pointed } {
  const stage = useAppSelector((state) => state.stage);
  const { source } = first;
  const zoom = stage.zoom?.source === source.id ? stage.zoom.zoom : null;
  const sides = second ? [first, second] : [first];
  const laid = layOut(
    sides.map(({ source, frame }) => shapeOf(pictureAt(source, frame ?? 0).source)),
    areas,
    zoom,
  );
  const pointer = useStagePointer({
    ...{ box, source: source.id, picture: laid[0]!.size, areas, zoom },
    ...{ enabled: takesPointer, onMeasured },
  });
  const pointed = laid[pointer.area] ?? laid[0]!;
  const under =
    pointer.point && source.facts && !stage.playing
      ? pixelUnder(pointed.place, pointed.size, pointer.point)
      : undefined;
  const draws = !stage.playing && mode !== 'difference' && areas[0]!.width > 0;
  const one = (side: Side | null, at: Laid | undefined) => {
    const pixel = at && under && (at === pointed ? under : scaled(under, pointed.size, at.size));
    const drawn = at !== undefined && draws && needsPieces(at, width, ratio);
    return { side, at, pixel, drawn, wanted: at ? wantedOf(at, pixel, drawn) : [] };
  };
  const [a, b] = [one(first, laid[0]), one(second, laid[1])];
  const pieces = [usePieces(first, a.wanted, a.drawn), usePieces(second, b.wanted, b.drawn)];
  const panes = [a, b].flatMap(({ side, at, pixel }, index) =>
    side && at ? [{ ...at, side, pixel, pieces: pieces[index]! }] : [],
  );
  return { panes, pointer };
}

/** Pieces of a picture: the one that is read, and all that are seen where it is drawn by them. */
function wantedOf({ place, size, area }: Laid, pixel: Point | undefined, drawn: boolean): number[] {
  const read = pixel ? [pieceAt(pixel)] : [];
  return [...new Set([...read, ...(drawn ? piecesIn(place, size, area) : [])])];
}
