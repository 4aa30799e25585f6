import { z } from 'zod';
import type { Held } from './held.ts';
import type { Receiver } from './receiver.ts';
import { receiverRuleNames, receiverRules } from './rules/index.ts';
import { breachedSchema } from './rules/rule.ts';

/** A rule of a receiver that is not kept. */
export const breachSchema = z.object({
  rule: z.enum(receiverRuleNames),
  /** What is held, as a person knows it. */
  name: z.string(),
  ...breachedSchema.shape,
});
export type Breach = z.infer<typeof breachSchema>;

/** What a receiver would trip over, each rule at most once, in the order of its sentences. */
export const breachesOf = (held: Held, receiver: Receiver): Breach[] =>
  receiverRuleNames.flatMap((rule) => {
    const breached = receiverRules[rule].breach(held, receiver);
    return breached ? [{ rule, name: held.name, ...breached }] : [];
  });
