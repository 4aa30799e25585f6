import { forwardRef, type HTMLAttributes } from 'react';

/**
 * What scrolls a virtual list whose own element takes the keys: no stop of its own on the way of the keyboard, and nothing between the list
 * and its rows for a reader.
 */
const Quiet = forwardRef<HTMLDivElement, HTMLAttributes<HTMLDivElement>>(function Quiet(
  { tabIndex: _, ...props },
  ref,
) {
  return <div ref={ref} {...props} />;
});

/** For lists that take the keys themselves. */
export const scrolled = { Scroller: Quiet };

/** What scrolls a table that takes no keys: arrows scroll it, and its rows are the group that a table may hold. */
const RowGroup = forwardRef<HTMLDivElement, HTMLAttributes<HTMLDivElement>>(function RowGroup(props, ref) {
  return <div ref={ref} role="rowgroup" {...props} />;
});

/** For tables whose rows are many. */
export const scrolledTable = { Scroller: RowGroup };
