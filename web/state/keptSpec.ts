import { parseSpec, type Spec } from '@shale/core';

const key = (source: string): string => `shale-spec-${source}`;

/** Keeps what is wanted of a source until the window closes. */
export const keepSpec = (source: string, spec: Spec): void => sessionStorage.setItem(key(source), JSON.stringify(spec));

/** What was wanted of a source in this window; undefined where nothing was, or where it cannot be read any more. */
export function keptSpec(source: string): Spec | undefined {
  try {
    return parseSpec(JSON.parse(sessionStorage.getItem(key(source)) ?? 'null'));
  } catch {
    return undefined;
  }
}
