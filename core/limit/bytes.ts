import { ShaleError } from '../errors.ts';

const units: Record<string, number> = {
  ...{ '': 1, b: 1, byte: 1, bytes: 1 },
  ...{ k: 1000, kb: 1000, kib: 1024, m: 1e6, mb: 1e6, mib: 1 << 20 },
};

/**
 * Bytes as people write them: `256KB` (of 1,000), `256 KiB` (of 1,024), `1.5MB`, `500,000`.
 * @throws ShaleError `bad-bytes`
 */
export function parseBytes(text: string): number {
  const [, amount, unit = ''] = /^(\d+(?:\.\d+)?)\s*([a-z]*)$/i.exec(text.trim().replaceAll(',', '')) ?? [];
  const bytes = Math.floor(Number(amount) * (units[unit.toLowerCase()] ?? NaN));
  if (bytes >= 1 && bytes <= 1e12) return bytes;
  throw new ShaleError({
    code: 'bad-bytes',
    fact: `"${text}" is not a number of bytes.`,
    wayOut: 'Write bytes, as 500000, 256KB, 256KiB or 1.5MB.',
  });
}
