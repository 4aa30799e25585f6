import { useEffect, useState } from 'react';

/** Milliseconds that each of the two is shown: slow enough for everyone (WCAG 2.2, 2.3.1). */
const shownFor = 700;

/** True every other moment while it is on. */
export function useBlink(on: boolean): boolean {
  const [second, setSecond] = useState(false);
  useEffect(() => {
    if (!on) return undefined;
    const timer = setInterval(() => setSecond((shown) => !shown), shownFor);
    return () => clearInterval(timer);
  }, [on]);
  return on && second;
}
