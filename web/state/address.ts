import { batchSchema, ownOf, ownSchema, parseSpec, withOwn, type Batch, type Spec } from '@shale/core';
import type { Makes } from '@shale/contract';
import type { Wish } from './keptBatch.ts';

/** Letters of what is said in an address at the most: beyond it servers and chat programs cut it off. */
const mostLetters = 6000;

const encode = (value: unknown): string =>
  btoa(String.fromCharCode(...new TextEncoder().encode(JSON.stringify(value))))
    .replaceAll('+', '-')
    .replaceAll('/', '_')
    .replace(/=+$/, '');

function decode(text: string): unknown {
  const bytes = atob(text.replaceAll('-', '+').replaceAll('_', '/'));
  return JSON.parse(new TextDecoder().decode(Uint8Array.from(bytes, (letter) => letter.charCodeAt(0))));
}

/** What a spec says otherwise than the start, for an address: it opens the same sentence elsewhere. Null where it says nothing, or too much. */
export function saidOf(start: Spec, spec: Spec): string | null {
  const own = ownOf(start, spec);
  if (Object.keys(own).length === 0) return null;
  const text = encode(own);
  return text.length <= mostLetters ? text : null;
}

/** The spec that an address says; undefined where it says none, or none that can be read. */
export function specSaid(start: Spec, text: string | null): Spec | undefined {
  if (text === null) return undefined;
  try {
    return withOwn(start, ownSchema.parse(decode(text)));
  } catch {
    return undefined;
  }
}

/** What is wanted of many, for an address; null where it says nothing that the start does not, or too much. */
export function wishSaidOf(start: Batch, { batch, makes }: Wish): string | null {
  const outputs = batch.outputs.map((spec) => ownOf(start.outputs[0]!, spec));
  const isStart = outputs.length === 1 && Object.keys(outputs[0]!).length === 0;
  if (isStart && batch.differences.length === 0 && makes === 'all') return null;
  const text = encode({ outputs, differences: batch.differences, makes });
  return text.length <= mostLetters ? text : null;
}

/** What an address says is wanted of many; undefined as with {@link specSaid}. */
export function wishSaid(start: Batch, text: string | null): Wish | undefined {
  if (text === null) return undefined;
  try {
    const { outputs, differences, makes } = decode(text) as { outputs: unknown[]; differences: unknown; makes: Makes };
    const specs = outputs.map((own) => parseSpec(withOwn(start.outputs[0]!, ownSchema.parse(own))));
    const batch = batchSchema.parse({ version: 1, outputs: specs, differences });
    return { batch, makes: makes === 'new' ? 'new' : 'all' };
  } catch {
    return undefined;
  }
}
