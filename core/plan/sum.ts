/** Checksums that tell whether a file that was read is still the same: the first is many times as quick. */
const sumKinds = ['xxh128', 'sha256'] as const;
export type SumKind = (typeof sumKinds)[number];

export const sumOf = (kind: SumKind, hexadecimal: string): string => `${kind}:${hexadecimal}`;
export const kindOfSum = (sum: string): SumKind => sumKinds.find((kind) => sum.startsWith(`${kind}:`)) ?? 'sha256';
/** `XXH128 0f3c...`: as a person reads it. */
export const sumWords = (sum: string): string =>
  `${{ xxh128: 'XXH128', sha256: 'SHA-256' }[kindOfSum(sum)]} ${sum.slice(sum.indexOf(':') + 1)}`;
