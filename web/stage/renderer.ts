import type { Answer, Asked, Work } from './render.worker.ts';

/** Workers that share the work: one for each picture of a comparison. */
const count = 2;

interface Waiting {
  resolve: (picture: ImageBitmap) => void;
  reject: (error: Error) => void;
}

interface Hand {
  worker: Worker;
  waiting: Map<number, Waiting>;
}

let hands: Hand[] = [];
let lastId = 0;

function makeHand(): Hand {
  const worker = new Worker(new URL('./render.worker.ts', import.meta.url), { type: 'module' });
  const hand: Hand = { worker, waiting: new Map() };
  worker.onmessage = ({ data }: MessageEvent<Answer>) => {
    const one = hand.waiting.get(data.id);
    hand.waiting.delete(data.id);
    if ('picture' in data) one?.resolve(data.picture);
    else one?.reject(new Error(data.error));
  };
  // A worker that ends takes its work with it; the next question makes a new one.
  worker.onerror = () => {
    hands = hands.filter((other) => other !== hand);
    worker.terminate();
    for (const one of hand.waiting.values()) one.reject(new Error('the worker ended'));
  };
  return hand;
}

/** Has a picture worked out by the worker with the least to do. */
export function render(work: Work): Promise<ImageBitmap> {
  if (hands.length < count) hands.push(makeHand());
  const hand = hands.reduce((least, other) => (other.waiting.size < least.waiting.size ? other : least));
  lastId += 1;
  const id = lastId;
  return new Promise((resolve, reject) => {
    hand.waiting.set(id, { resolve, reject });
    hand.worker.postMessage({ id, work } satisfies Asked);
  });
}
