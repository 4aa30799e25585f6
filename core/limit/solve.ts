/** A whole encode of a search: how much was given up, 0 nothing to 1 all that may be, and what came of it. */
export interface Tried {
  given: number;
  bytes: number;
}

export interface Solved {
  /** The largest that is within the limit; undefined where none is. */
  best: Tried | undefined;
  /** Every encode, in order. */
  tries: Tried[];
  /** Whether all that may be given up was, and it is still too large: no search finds one. */
  cannot: boolean;
}

/** A result of this share of its limit is good enough to end the search. */
export const goodShare = 0.92;

/** Of the limit, where the search aims. */
const aimShare = 0.965;

/** The most whole encodes of one search. */
export const mostTries = 8;

interface Search {
  /** Bytes, at most. */
  limit: number;
  /** Bytes of a whole encode with so much given up. */
  encode: (given: number) => Promise<number>;
  /** What is the same for two amounts is not encoded twice: settings come in steps. */
  settings: (given: number) => string;
  /** By which power of what is left bytes go down where all is given up: the natural logarithm of first to last, as a model has it. */
  modelled: number;
}

/**
 * Searches how much has to be given up for a file to be within a limit: by a line through what was measured, bytes by their logarithm,
 * held between the largest amount that was too large and the smallest that was not (regula falsi, halved where it does not move).
 */
export async function solveLimit({ limit, encode, settings, modelled }: Search): Promise<Solved> {
  const tries: Tried[] = [];
  const known = new Map<string, Tried>();
  const at = async (given: number): Promise<Tried> => {
    const key = settings(given);
    const before = known.get(key);
    if (before) return before;
    const tried = { given, bytes: await encode(given) };
    known.set(key, tried);
    tries.push(tried);
    return tried;
  };
  const isWithin = ({ bytes }: Tried): boolean => bytes <= limit;
  const isGood = (tried: Tried): boolean => isWithin(tried) && tried.bytes >= limit * goodShare;
  const aim = Math.log(limit * aimShare);

  let over = await at(0);
  if (isWithin(over)) return { best: over, tries, cannot: false };
  let under: Tried | undefined;
  let slope = -Math.max(0.05, modelled);
  for (let round = 0; tries.length < mostTries && round < 2 * mostTries; round += 1) {
    let next: number;
    if (under) {
      const [high, low] = [Math.log(over.bytes), Math.log(under.bytes)];
      const share = high - low < 1e-9 ? 0.5 : (high - aim) / (high - low);
      // At an end of the interval it would not move.
      const held = Math.min(0.92, Math.max(0.08, share));
      next = over.given + (under.given - over.given) * (round % 3 === 2 ? (held + 0.5) / 2 : held);
      if (settings(next) === settings(over.given) || settings(next) === settings(under.given)) {
        next = (over.given + under.given) / 2;
        // Nothing lies between two steps.
        if (settings(next) === settings(over.given) || settings(next) === settings(under.given)) break;
      }
    } else {
      // The last one that is left proves that it cannot be.
      next =
        tries.length === mostTries - 1
          ? 1
          : Math.min(1, over.given + Math.max(0.02, (aim - Math.log(over.bytes)) / slope));
    }
    const tried = await at(next);
    if (isGood(tried)) return { best: tried, tries, cannot: false };
    if (isWithin(tried)) under = tried;
    else {
      if (tried.given > over.given) {
        const measured = (Math.log(tried.bytes) - Math.log(over.bytes)) / (tried.given - over.given);
        // The first step off the wanted settings often gains little: the model is half believed still.
        slope = Math.min(-0.05, (slope + measured) / 2);
      }
      if (next >= 1) return { best: undefined, tries, cannot: true };
      over = { ...tried, given: Math.max(next, over.given) };
    }
  }
  const within = tries.filter(isWithin).sort((a, b) => b.bytes - a.bytes);
  return { best: within[0], tries, cannot: false };
}
