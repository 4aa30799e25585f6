import {
  freeName,
  receiverRules,
  receiverSentences,
  specRows,
  stackRows,
  type NamingSpec,
  type Receiver,
  type Spec,
} from '@shale/core';
import type { ListedReceiver, SavedSpec, SavedStack } from '@shale/contract';
import type { Told } from './Compared.tsx';
import type { HandedFile } from './files.ts';

/** Receivers, specs and naming rules, each with its place in the address. */
export type Kind = 'receivers' | 'specs' | 'names';

/** Something of this page, whatever its kind. */
export interface Item extends Told {
  kind: Kind;
  id: string;
  name: string;
  /** A few words under its name. */
  note: string;
  receiver?: ListedReceiver;
  spec?: SavedSpec;
  stack?: SavedStack;
}

const receiverRows = (receiver: Receiver) =>
  receiverSentences(receiver).map(({ rule, sentence }) => [receiverRules[rule].label, sentence] as const);

export function itemsOf(
  receivers: readonly ListedReceiver[],
  specs: readonly SavedSpec[],
  stacks: readonly SavedStack[],
): Item[] {
  return [
    ...receivers.map((one) => ({
      kind: 'receivers' as const,
      id: one.id,
      name: one.receiver.name,
      note: one.shipped ? (one.changed ? 'built in, changed' : 'built in') : 'your own',
      rows: receiverRows(one.receiver),
      receiver: one,
    })),
    ...specs.map((one) => ({
      kind: 'specs' as const,
      id: String(one.id),
      name: one.name,
      note: `version ${one.version}`,
      rows: specRows(one.spec),
      spec: one,
    })),
    ...stacks.map((one) => ({
      kind: 'names' as const,
      id: String(one.id),
      name: one.name,
      note: `version ${one.version}`,
      rows: stackRows(one.spec),
      stack: one,
    })),
  ];
}

/** Items of one kind as a file. */
export function handed(items: readonly Item[]): HandedFile {
  const named = <T extends Spec | NamingSpec>(list: { name: string; spec: T }[]) =>
    list.map(({ name, spec }) => ({ name, spec }));
  const kind = items[0]!.kind;
  if (kind === 'receivers')
    return { shale: 'receivers', version: 1, receivers: items.map(({ receiver }) => receiver!.receiver) };
  if (kind === 'specs') return { shale: 'specs', version: 1, specs: named(items.map(({ spec }) => spec!)) };
  return { shale: 'names', version: 1, names: named(items.map(({ stack }) => stack!)) };
}

/** A name that is still free among those of a kind: `Archive 2`. */
export const freeNameIn = (name: string, items: readonly Item[], kind: Kind): string =>
  freeName(name, new Set(items.filter((item) => item.kind === kind).map((item) => item.name)));
