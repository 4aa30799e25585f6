import { useEffect, useRef, useState, type DOMAttributes, type PointerEvent, type RefObject } from 'react';
import type { Box } from '@shale/core';
import { useAppDispatch } from '../state/store.ts';
import type { Point } from './panes.ts';
import { fitScale, movedBy, pixelUnder, placeOf, zoomedAt, type Shape, type Place, type Zoom } from './place.ts';
import { stageSet } from './state.ts';

interface Options {
  box: RefObject<HTMLDivElement | null>;
  source: string;
  picture: Shape;
  /** The parts of the stage: one that all share, or one for each picture. */
  areas: readonly Place[];
  zoom: Zoom | null;
  /** Not while something drawn over the picture takes the pointer. */
  enabled: boolean;
  /** Called when a box was drawn with Shift held; absent where boxes are not drawn. */
  onMeasured?: () => void;
}

/** What the pointer does, and what it points at. */
export interface Pointed {
  /** Where it is on the stage; null while it is not. */
  point: Point | null;
  /** Which picture it is on, where each has its own part of the stage. */
  area: number;
  /** A box that is being drawn, in pixels of the first picture. */
  drawn: Box | undefined;
  cursor: string | undefined;
  handlers: DOMAttributes<HTMLDivElement>;
}

/** Two fingers on the stage: where they were put, and how it was zoomed then. */
interface Pinch {
  zoom: Zoom | null;
  from: readonly [Point, Point];
}

const between = ([a, b]: readonly [Point, Point]) => ({
  middle: { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 },
  apart: Math.max(1, Math.hypot(a.x - b.x, a.y - b.y)),
});

const isIn = ({ x, y, width, height }: Place, point: Point): boolean =>
  point.x >= x && point.y >= y && point.x < x + width && point.y < y + height;

/** What the pointer does on the stage: reads pixels, zooms by the wheel or two fingers, moves by dragging, measures a box with Shift held. */
export function useStagePointer(options: Options): Pointed {
  const { box, source, picture, areas, zoom, enabled, onMeasured } = options;
  const dispatch = useAppDispatch();
  const [point, setPoint] = useState<Point | null>(null);
  const [dragged, setDragged] = useState<{ from: Point; last: Point; measures: boolean } | null>(null);
  const fingers = useRef(new Map<number, Point>());
  const pinch = useRef<Pinch | null>(null);
  const [shared, beside] = areas as [Place, Place?];
  const isBeside = (at: Point): boolean => beside !== undefined && isIn(beside, at);

  const zoomTo = (next: Zoom | null) => dispatch(stageSet({ zoom: next && { source, zoom: next } }));
  /** A point of the second part as the same point of the first. */
  const inFirst = (at: Point): Point => (isBeside(at) ? { x: at.x - beside!.x + shared.x, y: at.y } : at);
  const wheel = useRef<(event: WheelEvent) => void>(() => undefined);
  useEffect(() => {
    wheel.current = (event) => {
      event.preventDefault();
      const place = box.current!.getBoundingClientRect();
      const at = { x: event.clientX - place.left, y: event.clientY - place.top };
      const next = zoomedAt(picture, shared, zoom, 2 ** (-event.deltaY / 240), inFirst(at));
      zoomTo(next.scale <= fitScale(picture, shared) ? null : next);
    };
  });
  useEffect(() => {
    const element = box.current!;
    const turn = (event: WheelEvent) => wheel.current(event);
    // A wheel that React listens to may not be kept from scrolling the page.
    element.addEventListener('wheel', turn, { passive: false });
    return () => element.removeEventListener('wheel', turn);
  }, [box]);

  const pointOf = ({ clientX, clientY, currentTarget }: PointerEvent): Point => {
    const { left, top } = currentTarget.getBoundingClientRect();
    return { x: clientX - left, y: clientY - top };
  };
  const place = placeOf(picture, shared, zoom);
  const pixelAt = (at: Point): Point | undefined => {
    const held = {
      x: Math.min(place.x + place.width - 1e-3, Math.max(place.x, inFirst(at).x)),
      y: Math.min(place.y + place.height - 1e-3, Math.max(place.y, inFirst(at).y)),
    };
    return pixelUnder(place, picture, held);
  };
  const boxOf = (from: Point, to: Point): Box | undefined => {
    const [a, b] = [pixelAt(from), pixelAt(to)];
    if (!a || !b) return undefined;
    return {
      left: Math.min(a.x, b.x),
      top: Math.min(a.y, b.y),
      width: Math.abs(a.x - b.x) + 1,
      height: Math.abs(a.y - b.y) + 1,
    };
  };

  /** The fingers that are down, where there are two. */
  const two = (): [Point, Point] | undefined => {
    const [a, b] = fingers.current.values();
    return a && b && fingers.current.size === 2 ? [a, b] : undefined;
  };
  const lift = ({ pointerId }: PointerEvent) => {
    fingers.current.delete(pointerId);
    pinch.current = null;
  };
  /** Zooms and moves by two fingers, reckoned from where they were put, so that nothing adds up. */
  const pinched = (now: readonly [Point, Point], begun: Pinch) => {
    const [before, after] = [between(begun.from), between(now)];
    const at = inFirst(before.middle);
    const next = zoomedAt(picture, shared, begun.zoom, after.apart / before.apart, at);
    if (next.scale <= fitScale(picture, shared)) return zoomTo(null);
    const [x, y] = [after.middle.x - before.middle.x, after.middle.y - before.middle.y];
    return zoomTo(movedBy(picture, next, x, y));
  };

  const handlers = {
    onPointerMove: (event: PointerEvent) => {
      const now = pointOf(event);
      if (fingers.current.has(event.pointerId)) fingers.current.set(event.pointerId, now);
      const down = two();
      if (down && pinch.current) {
        pinched(down, pinch.current);
        return;
      }
      setPoint(now);
      if (!dragged) return;
      if (!dragged.measures && zoom) zoomTo(movedBy(picture, zoom, now.x - dragged.last.x, now.y - dragged.last.y));
      setDragged({ ...dragged, last: now });
    },
    onPointerLeave: () => setPoint(null),
    onPointerDown: (event: PointerEvent) => {
      if (!enabled || event.button !== 0) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      const from = pointOf(event);
      // The first finger of a touch: none is left of the one before it.
      if (event.isPrimary) fingers.current.clear();
      if (event.pointerType === 'touch') fingers.current.set(event.pointerId, from);
      const down = two();
      if (down) {
        pinch.current = { zoom, from: down };
        setDragged(null);
        return;
      }
      setDragged({ from, last: from, measures: event.shiftKey && onMeasured !== undefined });
    },
    onPointerUp: (event: PointerEvent) => {
      lift(event);
      if (dragged?.measures) {
        const drawn = boxOf(dragged.from, dragged.last);
        // A press without a drag takes the box away.
        const isBox = drawn && (drawn.width > 1 || drawn.height > 1);
        dispatch(stageSet({ region: isBox ? { source, box: drawn } : null }));
        if (isBox) onMeasured?.();
      }
      setDragged(null);
    },
    onPointerCancel: (event: PointerEvent) => {
      lift(event);
      setDragged(null);
    },
    onDoubleClick: () =>
      point && zoomTo(zoom ? null : zoomedAt(picture, shared, null, 1 / fitScale(picture, shared), inFirst(point))),
  };
  return {
    point,
    area: point && isBeside(point) ? 1 : 0,
    drawn: dragged?.measures ? boxOf(dragged.from, dragged.last) : undefined,
    cursor: dragged?.measures ? 'crosshair' : zoom ? (dragged ? 'grabbing' : 'grab') : undefined,
    handlers: enabled ? handlers : {},
  };
}
