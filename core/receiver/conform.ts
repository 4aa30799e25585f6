import type { NameRule, NamingSpec, RuleOf, NameRuleKind } from '../naming/rules.ts';
import { newRule } from '../naming/rules.ts';
import { plainText } from '../naming/parts.ts';
import { mostAcross, padSchema, resizeSchema, type Resize } from '../pixels/picture.ts';
import { formatRules, formatSchema } from '../spec/formats.ts';
import type { Spec } from '../spec/schema.ts';
import { withFormat } from '../spec/parse.ts';
import { transferSchema } from '../spec/declaration.ts';
import type { Breach } from './breaches.ts';
import type { Receiver, ReceiverRule } from './receiver.ts';
import { formatWords } from '../formats/index.ts';
import { separatorWords } from './sentences.ts';

/** Rules that new names alone can keep, and what the mend is called. */
const namingMends: Partial<Record<ReceiverRule, (receiver: Receiver) => string>> = {
  characters: () => 'Take letters and digits',
  letters: ({ letters }) => (letters === 'lower' ? 'Make letters small' : 'Make letters capital'),
  separator: ({ separator }) => `Put ${separatorWords(separator ?? '.')} before the number`,
  digits: ({ digits }) => `Write ${digits} digits`,
  byName: () => 'Pad to one width',
  first: ({ first }) => `Number from ${first}`,
  unbroken: () => 'Close the gaps',
  alone: () => 'Copy into a folder of its own',
  nameLength: () => 'Cut the stem',
};

/** Rules that a conversion can keep, and what the mend is called. */
const specMends: Partial<Record<ReceiverRule, (receiver: Receiver) => string>> = {
  ...namingMends,
  unbroken: undefined,
  alone: () => 'Write into a folder of its own',
  formats: (receiver) => `Write ${formatWords(writable(receiver)!)}`,
  samples: () => 'Write that depth',
  alpha: () => 'Write that alpha',
  transfers: () => 'Write that transfer',
  size: () => 'Make pictures small enough',
  multipleOf: ({ multipleOf }) => `Pad to multiples of ${multipleOf}`,
};

/** What mends a breach by new names, in a few words; undefined where names cannot. */
export const namingMend = ({ rule, unknown }: Breach, receiver: Receiver): string | undefined =>
  unknown ? undefined : namingMends[rule]?.(receiver);

/** What mends a breach in a conversion; undefined where none does: rates, gaps. */
export function specMend({ rule, unknown }: Breach, receiver: Receiver): string | undefined {
  if (unknown) return undefined;
  if (rule === 'formats' && !writable(receiver)) return undefined;
  if (rule === 'transfers' && !receiver.transfers?.some((one) => transferSchema.safeParse(one).success))
    return undefined;
  return specMends[rule]?.(receiver);
}

/** The first format of a receiver that this version writes. */
const writable = ({ formats }: Receiver) => formatSchema.options.find((format) => formats?.includes(format));

/** The stack with a rule of a kind changed, the last one that is on; added at the end where there is none. */
function withRule<K extends NameRuleKind>(
  rules: readonly NameRule[],
  kind: K,
  change: (rule: RuleOf<K>) => RuleOf<K>,
): NameRule[] {
  const at = rules.findLastIndex((rule) => rule.kind === kind && rule.on);
  if (at < 0) return [...rules, change(newRule(kind) as RuleOf<K>)];
  return rules.map((rule, index) => (index === at ? change(rule as RuleOf<K>) : rule));
}

/**
 * A naming spec with the rules that some breaches ask for. The other rules of the stack stay as they are; a template would go
 * before what is asked of separator and digits and is switched off then.
 */
export function conformNaming(spec: NamingSpec, receiver: Receiver, breaches: readonly Breach[]): NamingSpec {
  let next: NamingSpec = spec;
  const rules = (change: (rules: NameRule[]) => NameRule[]) => (next = { ...next, rules: change(next.rules) });
  const number = (change: Partial<RuleOf<'number'>>) =>
    rules((all) => withRule(all, 'number', (rule) => ({ ...rule, ...change })));
  for (const { rule, over = 0, hasTail } of breaches) {
    if (rule === 'characters')
      rules((all) => withRule(all, 'characters', (one) => ({ ...one, keep: keepOf(receiver), with: putOf(receiver) })));
    else if (rule === 'letters')
      rules((all) => [...all, { kind: 'case', on: true, to: receiver.letters!, where: 'both' }]);
    else if (rule === 'separator' || rule === 'digits') {
      const separator = receiver.separator ?? '.';
      const digits = receiver.digits ?? 'auto';
      if (next.rules.some(({ kind, on }) => kind === 'template' && on) || hasTail) {
        const frame = receiver.digits === null ? '{frame}' : `{frame:${receiver.digits}}`;
        rules((all) =>
          withRule(all, 'template', (one) => ({ ...one, template: `{stem}{tail}${separator}${frame}.{ext}` })),
        );
        if (receiver.digits === null) number({ digits: 'auto' });
      } else number({ digits, ...(rule === 'separator' && { before: separator }) });
    } else if (rule === 'byName') number({ digits: receiver.digits ?? 'auto' });
    else if (rule === 'first') number({ first: receiver.first });
    else if (rule === 'unbroken') number({ gaps: 'close', step: 1 });
    else if (rule === 'alone') next = { ...next, mode: 'copy', into: { ...next.into, folder: '{path}/{stem}' } };
    else if (rule === 'nameLength') {
      rules((all) => withRule(all, 'trim', (one) => ({ ...one, end: Math.max(0, one.end + over) })));
    }
  }
  return next;
}

const keepOf = ({ characters, keep }: Receiver): string => (characters === 'plain' ? keep : '_-. ');
const putOf = (receiver: Receiver): '_' | '-' | '' => {
  const keep = keepOf(receiver);
  return keep.includes('_') ? '_' : keep.includes('-') ? '-' : '';
};

/** The largest size that a receiver takes; a side that it says nothing of is as large as any. */
const limitOf = ({ maxWidth, maxHeight }: Receiver): Resize['to'] => ({
  by: 'limit',
  width: maxWidth ?? mostAcross,
  height: maxHeight ?? mostAcross,
});

/** A conversion's spec with what some breaches ask for. @param stem the stem that the plan has now */
export function conformSpec(spec: Spec, receiver: Receiver, breaches: readonly Breach[], stem: string): Spec {
  let next = spec;
  const names = (change: Partial<Spec['names']>) => (next = { ...next, names: { ...next.names, ...change } });
  const write = (change: Partial<Spec['write']>) => (next = { ...next, write: { ...next.write, ...change } });
  const picture = (change: Partial<Spec['picture']>) => (next = { ...next, picture: { ...next.picture, ...change } });
  const nowStem = () => next.names.stem ?? stem;
  for (const { rule, over = 0, widest = 4 } of breaches) {
    if (rule === 'characters')
      names({ stem: plainText(nowStem(), { keep: keepOf(receiver), with: putOf(receiver) }) || 'frame' });
    else if (rule === 'letters')
      names({ stem: receiver.letters === 'lower' ? nowStem().toLowerCase() : nowStem().toUpperCase() });
    else if (rule === 'separator' || rule === 'digits' || rule === 'byName')
      names({ template: `{stem}${receiver.separator ?? '.'}{frame:${receiver.digits ?? Math.max(4, widest)}}.{ext}` });
    else if (rule === 'first') names({ first: receiver.first });
    else if (rule === 'size') picture({ resize: resizeSchema.parse({ to: limitOf(receiver) }) });
    else if (rule === 'multipleOf') picture({ pad: padSchema.parse({ multiple: receiver.multipleOf }) });
    else if (rule === 'alone') next = { ...next, into: { ...next.into, folder: null } };
    else if (rule === 'nameLength') {
      names({ stem: [...nowStem()].slice(0, -over).join('') || 'f' });
    } else if (rule === 'formats') {
      const format = writable(receiver);
      if (format) next = withFormat(next, format);
    }
    if (rule === 'formats' || rule === 'samples') {
      const { samples } = formatRules[next.write.format];
      const wanted = receiver.samples?.find((sample) => samples.includes(sample));
      if (wanted && !receiver.samples!.includes(next.write.sample)) write({ sample: wanted });
    }
    const { alpha } = next.write;
    const held = alpha === 'matte' ? 'none' : alpha;
    if ((rule === 'formats' || rule === 'alpha') && receiver.alpha && !receiver.alpha.includes(held)) {
      const { alpha: holds, alphaRule } = formatRules[next.write.format];
      const kinds = receiver.alpha.filter((kind) => kind === 'none' || holds);
      const wanted = kinds.find((kind) => kind === alphaRule) ?? kinds.find((kind) => kind !== 'none') ?? kinds[0];
      if (wanted) write({ alpha: wanted });
    }
    if (
      (rule === 'formats' || rule === 'transfers') &&
      receiver.transfers &&
      !receiver.transfers.includes(next.write.transfer)
    ) {
      const wanted = receiver.transfers.map((one) => transferSchema.safeParse(one).data).find(Boolean);
      if (wanted) write({ transfer: wanted });
    }
  }
  return next;
}
