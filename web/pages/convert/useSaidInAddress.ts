import { useEffect, useState } from 'react';
import { useLocation, useSearchParams } from 'react-router';
import { useRested } from '../../pieces/useRested.ts';

const keyOf = (about: string): string => `shale-said-${about}`;

/** What an address says of something, unless this window said it there itself: what it keeps is newer then. */
export const saidElsewhere = (about: string, said: string | null): string | null =>
  said === sessionStorage.getItem(keyOf(about)) ? null : said;

/** Keeps what is wanted in the address, once it rests: copied, it opens the same elsewhere. @param about a source, or a list of them */
export function useSaidInAddress(about: string, said: string | null): void {
  const [params, setParams] = useSearchParams();
  const { pathname } = useLocation();
  const [isOfWindow] = useState(() => window.location.pathname === pathname);
  const rested = useRested(said, 400);
  const inAddress = params.get('say');
  useEffect(() => {
    sessionStorage.setItem(keyOf(about), rested ?? '');
    // Somebody has gone elsewhere, and the page there is still on its way: this one has no address any more.
    const isLeft = isOfWindow && window.location.pathname !== pathname;
    if (rested === inAddress || isLeft) return;
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (rested === null) next.delete('say');
        else next.set('say', rested);
        return next;
      },
      { replace: true },
    );
    // oxlint-disable-next-line react/exhaustive-deps -- the address follows what is said, not the other way round
  }, [rested]);
}
