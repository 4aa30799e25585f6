import type { Receiver } from './receiver.ts';
import { receiverRuleNames, receiverRules, type ReceiverRule } from './rules/index.ts';

/** A receiver's rules read aloud, one sentence each; rules that ask for nothing are left out. */
export const receiverSentences = (receiver: Receiver): { rule: ReceiverRule; sentence: string }[] =>
  receiverRuleNames.flatMap((rule) => {
    const sentence = receiverRules[rule].sentence(receiver);
    return sentence ? [{ rule, sentence }] : [];
  });
