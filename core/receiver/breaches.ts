import type { Held } from './held.ts';
import type { Receiver } from './receiver.ts';
import { receiverRuleNames, receiverRules, type ReceiverRule } from './rules/index.ts';
import type { Breached } from './rules/rule.ts';

/** A rule of a receiver that is not kept. */
export interface Breach extends Breached {
  rule: ReceiverRule;
  /** What is held, as a person knows it. */
  name: string;
}

/** What a receiver would trip over, each rule at most once, in the order of its sentences. */
export const breachesOf = (held: Held, receiver: Receiver): Breach[] =>
  receiverRuleNames.flatMap((rule) => {
    const breached = receiverRules[rule].breach(held, receiver);
    return breached ? [{ rule, name: held.name, ...breached }] : [];
  });
