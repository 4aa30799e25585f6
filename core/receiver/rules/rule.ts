import { z } from 'zod';
import type { NamingSpec } from '../../naming/rules.ts';
import type { Spec } from '../../spec/schema.ts';
import type { Held } from '../held.ts';
import type { Receiver } from '../receiver.ts';

/** What a breach tells beside its sentence, for whoever mends it. */
export const breachedSchema = z.object({
  /** One plain sentence. */
  sentence: z.string(),
  /** True where nothing says what the rule asks about: it is no breach once it is declared so. */
  unknown: z.boolean().optional(),
  /** Characters by which a name is too long. */
  over: z.number().optional(),
  /** True where something stands between number and ending. */
  hasTail: z.boolean().optional(),
  /** Digits that the greatest number needs. */
  widest: z.number().optional(),
});
export type Breached = z.infer<typeof breachedSchema>;

/** What keeps a rule: what the mend is called, and what it changes. */
export interface Mend<S> {
  /** In a few words; undefined where this receiver's rule cannot be kept so. */
  words(receiver: Receiver): string | undefined;
  change(spec: S, receiver: Receiver, breached: Breached): S;
}

/** A conversion's spec with the stem that its plan has now. */
export interface Converting {
  spec: Spec;
  stem: string;
}

/** All that is known of a rule of receivers: its sentence, its breach, its mends. */
export interface Rule {
  /** As a table calls it. */
  label: string;
  /** The rule read aloud; nothing where a receiver asks for nothing. */
  sentence(receiver: Receiver): string | null | undefined;
  /** How it is not kept; undefined where it is, or is not asked for. */
  breach(held: Held, receiver: Receiver): Breached | undefined;
  /** How new names keep it; absent where names alone cannot. */
  byNames?: Mend<NamingSpec>;
  /** How a conversion keeps it; absent where none can. */
  byConverting?: Mend<Converting>;
}
