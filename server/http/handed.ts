import type { Unfit } from '@shale/core';

/** How a file that was handed from one Shale to another, or a part of one, is refused. */
export const handed = (what: string, code = 'bad-file'): Unfit => ({
  code,
  what,
  wayOut: 'Correct the field; docs/naming.md and docs/specs.md list what each field takes. Nothing was changed.',
});
