import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { leastScale, mostScale, type Extent } from './place.ts';
import { stageSet } from './state.ts';

/** How large a source is shown, and what makes it larger and smaller. */
export function useZoom(source: string, picture: Extent) {
  const dispatch = useAppDispatch();
  const kept = useAppSelector(({ stage }) => stage.zoom);
  const zoom = kept?.source === source ? kept.zoom : null;
  const middle = { x: picture.width / 2, y: picture.height / 2 };
  const set = (scale: number) => {
    const held = Math.min(mostScale, Math.max(leastScale, scale));
    dispatch(stageSet({ zoom: { source, zoom: { ...(zoom ?? middle), scale: held } } }));
  };
  // Whole numbers of pixels, and their halves below: what a person can count on.
  const { scale } = zoom ?? { scale: 1 };
  return {
    isWhole: zoom === null,
    words: zoom ? `${scale < 0.1 ? (scale * 100).toFixed(1) : Math.round(scale * 100)} %` : 'whole',
    in: () => set(zoom ? 2 ** (Math.floor(Math.log2(scale) + 1e-6) + 1) : 1),
    out: () => set(zoom ? 2 ** (Math.ceil(Math.log2(scale) - 1e-6) - 1) : 0.5),
    toPixels: () => set(1),
    toWhole: () => dispatch(stageSet({ zoom: null })),
  };
}
