import type { NamingSpec } from '../naming/rules.ts';
import type { Spec } from '../spec/schema.ts';
import type { Breach } from './breaches.ts';
import type { Receiver } from './receiver.ts';
import { receiverRules, type ReceiverRule } from './rules/index.ts';
import type { Rule } from './rules/rule.ts';

const ruleOf = (rule: ReceiverRule): Rule => receiverRules[rule];

/** What mends a breach by new names, in a few words; undefined where names cannot. */
export const namingMend = ({ rule, unknown }: Breach, receiver: Receiver): string | undefined =>
  unknown ? undefined : ruleOf(rule).byNames?.words(receiver);

/** What mends a breach in a conversion; undefined where none does: rates, gaps. */
export const specMend = ({ rule, unknown }: Breach, receiver: Receiver): string | undefined =>
  unknown ? undefined : ruleOf(rule).byConverting?.words(receiver);

/** A naming spec with the rules that some breaches ask for; the other rules of the stack stay as they are. */
export const conformNaming = (spec: NamingSpec, receiver: Receiver, breaches: readonly Breach[]): NamingSpec =>
  breaches.reduce((next, breach) => ruleOf(breach.rule).byNames?.change(next, receiver, breach) ?? next, spec);

/** A conversion's spec with what some breaches ask for. @param stem the stem that the plan has now */
export const conformSpec = (spec: Spec, receiver: Receiver, breaches: readonly Breach[], stem: string): Spec =>
  breaches.reduce((next, breach) => ruleOf(breach.rule).byConverting?.change(next, receiver, breach) ?? next, {
    spec,
    stem,
  }).spec;
