import { fieldWords, numberFields, separatorWords, textFields, type NameRule, type RuleOf } from '@shale/core';
import { Choice, Pair, Text, Whole } from '../../pieces/slimFields.tsx';

/** Fields of a name with what they give, the likeliest first. */
const fields = ([...numberFields.slice(0, 3), ...textFields, ...numberFields.slice(3)] as const).map(
  (field) => [field, `{${field}}  ${fieldWords[field]}`] as const,
);

/** A template with a field before its ending. */
function withField(template: string, field: string): string {
  const at = template.lastIndexOf('.{ext}');
  const part = field === 'frame' ? '{frame:4}' : `{${field}}`;
  return at < 0 ? template + part : `${template.slice(0, at)}_${part}${template.slice(at)}`;
}

const separators = (['.', '_', '-', ' ', ''] as const).map((one) => [one, separatorWords(one)] as const);
/** A select's value for null, which is none of the separators. */
const asItIs = 'as it is';

interface Props<R> {
  rule: R;
  onChange: (rule: R) => void;
}

function NumberFields({ rule, onChange }: Props<RuleOf<'number'>>) {
  const set = (part: Partial<RuleOf<'number'>>) => onChange({ ...rule, ...part });
  return (
    <>
      <Pair>
        <Whole label="From" value={rule.first} placeholder="as it is" onSay={(first) => set({ first })} />
        <Whole
          label="Step"
          value={rule.step}
          placeholder="as it is"
          onSay={(step) => (step === null || step > 0) && set({ step })}
        />
      </Pair>
      <Pair>
        <Choice
          label="Digits"
          value={rule.digits === null ? asItIs : String(rule.digits)}
          options={[
            [asItIs, 'as they are'],
            ['auto', 'as needed'],
            ...[1, 2, 3, 4, 5, 6, 7, 8].map((count) => [String(count), String(count)] as const),
          ]}
          onSay={(digits) => set({ digits: digits === asItIs ? null : digits === 'auto' ? 'auto' : Number(digits) })}
        />
        <Choice
          label="If a frame is missing"
          value={rule.gaps}
          options={[
            ['keep', 'keep the gap'],
            ['close', 'close it up'],
          ]}
          onSay={(gaps) => set({ gaps })}
        />
      </Pair>
      <Choice
        label="Before the number"
        value={rule.before ?? asItIs}
        options={[[asItIs, 'as it is'], ...separators]}
        onSay={(before) => set({ before: before === asItIs ? null : before })}
      />
    </>
  );
}

function ReplaceFields({ rule, onChange, idle }: Props<RuleOf<'replace'>> & { idle: boolean }) {
  const set = (part: Partial<RuleOf<'replace'>>) => onChange({ ...rule, ...part });
  return (
    <>
      <Pair>
        <Text label="Find" mono value={rule.find} error={idle} onSay={(find) => set({ find })} />
        <Text label="Becomes" mono value={rule.with} placeholder="nothing" onSay={(other) => set({ with: other })} />
      </Pair>
      <Pair>
        <Choice
          label="Taken as"
          value={`${rule.as}${rule.anyCase ? ' any' : ''}`}
          options={[
            ['text', 'text'],
            ['text any', 'text, any case'],
            ['expression', 'expression'],
            ['expression any', 'expression, any case'],
          ]}
          onSay={(said) => set({ as: said.split(' ')[0] as 'text', anyCase: said.endsWith('any') })}
        />
        <Choice
          label="In"
          value={rule.where}
          options={[
            ['stem', 'the stem'],
            ['ending', 'the ending'],
            ['whole', 'the finished name'],
          ]}
          onSay={(where) => set({ where })}
        />
      </Pair>
    </>
  );
}

/** The fields of a rule, in its card of the stack. */
export function RuleFields({ rule, onChange, idle, failing }: Props<NameRule> & { idle: boolean; failing: boolean }) {
  switch (rule.kind) {
    case 'template':
      return (
        <>
          <Text
            label="Name"
            mono
            value={rule.template}
            error={failing}
            onSay={(template) => onChange({ ...rule, template })}
          />
          <Choice
            label="Insert a field"
            value=""
            options={[['', 'stem, frame, version, rate ...'], ...fields]}
            onSay={(field) => field !== '' && onChange({ ...rule, template: withField(rule.template, field) })}
          />
        </>
      );
    case 'number':
      return <NumberFields rule={rule} onChange={onChange} />;
    case 'replace':
      return <ReplaceFields rule={rule} onChange={onChange} idle={idle || failing} />;
    case 'case':
      return (
        <Pair>
          <Choice
            label="Letters"
            value={rule.to}
            options={[
              ['lower', 'small'],
              ['upper', 'CAPITAL'],
              ['words', 'Capital Words'],
            ]}
            onSay={(to) => onChange({ ...rule, to: to })}
          />
          <Choice
            label="In"
            value={rule.where}
            options={[
              ['both', 'stem and ending'],
              ['stem', 'the stem'],
              ['ending', 'the ending'],
            ]}
            onSay={(where) => onChange({ ...rule, where: where })}
          />
        </Pair>
      );
    case 'separators':
      return (
        <Choice
          label="Between words"
          value={rule.to}
          options={separators}
          onSay={(to) => onChange({ ...rule, to: to as '.' })}
        />
      );
    case 'trim':
      return (
        <Pair>
          <Whole
            label="Trim from the start"
            value={rule.start}
            onSay={(start) => onChange({ ...rule, start: start ?? 0 })}
          />
          <Whole label="Trim from the end" value={rule.end} onSay={(end) => onChange({ ...rule, end: end ?? 0 })} />
        </Pair>
      );
    case 'characters':
      return (
        <Pair>
          <Text
            label="Also keep"
            mono
            value={rule.keep}
            placeholder="nothing"
            onSay={(keep) => onChange({ ...rule, keep: keep.slice(0, 20) })}
          />
          <Choice
            label="Others become"
            value={rule.with}
            options={separators.filter(([one]) => one === '_' || one === '-' || one === '')}
            onSay={(other) => onChange({ ...rule, with: other as '_' })}
          />
        </Pair>
      );
    case 'spelling':
      return null;
  }
}
