import Close from '@mui/icons-material/Close';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { newRule, ruleWords, type NameRule, type NameRuleKind, type NamingSpec, type Problem } from '@shale/core';
import { useSaveStackMutation, useStacksQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { Shelf } from '../../pieces/Shelf.tsx';
import { SortableList } from '../../pieces/SortableList.tsx';
import { RuleFields } from './RuleFields.tsx';

/** What each kind of rule is called where it is added, and what it is for. */
const kinds: Record<NameRuleKind, [words: string, note: string]> = {
  number: ['Numbers', 'start, step, digits, gaps'],
  template: ['Form of the name', '{stem}.{frame:4}.{ext} and other fields'],
  replace: ['Find and replace', 'text or an expression'],
  case: ['Letters', 'small, capital'],
  separators: ['Separators', 'dots, dashes, underscores, spaces'],
  characters: ['Letters and digits', 'no accents, no signs'],
  trim: ['Trim', 'trim ends, remove stray separators'],
  spelling: ['Spelled alike', 'match the most common endings and accents'],
};

/** Rules have no name of their own: each is known by its place when the stack was last ordered. */
let made = 0;
const ids = new WeakMap<NameRule, string>();
const idOf = (rule: NameRule): string => {
  const known = ids.get(rule);
  if (known) return known;
  const id = `rule-${(made += 1)}`;
  ids.set(rule, id);
  return id;
};

interface Props {
  spec: NamingSpec;
  onChange: (spec: NamingSpec) => void;
  /** Positions of rules that find nothing. */
  idle: readonly number[];
  problems: readonly Problem[];
}

/** The rules, carried out from the first to the last: to be ordered, switched off, taken out, kept. */
export function RuleStack({ spec, onChange, idle, problems }: Props) {
  const [adding, setAdding] = useState<HTMLElement | null>(null);
  const { data: stacks = [] } = useStacksQuery();
  const [save, { error }] = useSaveStackMutation();
  const setRules = (rules: NameRule[]) => onChange({ ...spec, rules });
  const set = (index: number, rule: NameRule) => {
    // The same rule, changed: it keeps its place under the pointer and the keyboard.
    ids.set(rule, idOf(spec.rules[index]!));
    setRules(spec.rules.map((one, at) => (at === index ? rule : one)));
  };
  const fails = (rule: NameRule): boolean =>
    problems.some(
      ({ code, subject }) =>
        (rule.kind === 'template' &&
          (code === 'bad-template' || code === 'field-unknown') &&
          subject !== 'into.folder') ||
        (rule.kind === 'replace' &&
          (code === 'bad-expression' ? subject === rule.find : code === 'nothing-to-find' && rule.find === '')),
    );
  return (
    <Card title="Rules, from the first to the last" sx={{ flex: 'none' }}>
      {spec.rules.length === 0 ? (
        <Typography sx={{ color: 'text.secondary', fontSize: 13, mb: 1 }}>
          None yet: every file keeps its name. Add one and watch the names on the right.
        </Typography>
      ) : (
        <SortableList
          label="Rules"
          items={spec.rules}
          idOf={idOf}
          wordsOf={(rule) => kinds[rule.kind][0]}
          onOrder={setRules}
        >
          {(rule, index) => (
            <Box
              data-testid="rule"
              data-kind={rule.kind}
              sx={{ pb: 1.25, mb: 1.25, borderBottom: 1, borderColor: 'divider' }}
            >
              <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, minHeight: 30 }}>
                <Typography
                  sx={{ fontWeight: 600, fontSize: 13.5, color: rule.on ? 'text.primary' : 'text.secondary' }}
                >
                  {kinds[rule.kind][0]}
                </Typography>
                {!rule.on && (
                  <Typography noWrap sx={{ fontSize: 12.5, color: 'text.secondary', minWidth: 0 }}>
                    off: {ruleWords(rule)}
                  </Typography>
                )}
                <Switch
                  size="small"
                  checked={rule.on}
                  onChange={(_, on) => set(index, { ...rule, on })}
                  slotProps={{ input: { 'aria-label': `${kinds[rule.kind][0]} in force` } }}
                  sx={{ ml: 'auto' }}
                />
                <IconButton
                  aria-label={`Take out: ${kinds[rule.kind][0]}`}
                  onClick={() => setRules(spec.rules.filter((_, at) => at !== index))}
                  sx={{ p: 0.25 }}
                >
                  <Close sx={{ fontSize: 17 }} />
                </IconButton>
              </Box>
              {rule.on && (
                <Box sx={{ display: 'grid', gap: 1.25, pt: rule.kind === 'spelling' ? 0 : 1 }}>
                  <RuleFields
                    rule={rule}
                    onChange={(next) => set(index, next)}
                    idle={idle.includes(index)}
                    failing={fails(rule)}
                  />
                </Box>
              )}
            </Box>
          )}
        </SortableList>
      )}
      <Button
        variant="outlined"
        size="small"
        aria-haspopup="menu"
        onClick={({ currentTarget }) => setAdding(currentTarget)}
        sx={{ mb: 1.75 }}
      >
        Add a rule
      </Button>
      <Menu open={adding !== null} anchorEl={adding} onClose={() => setAdding(null)}>
        {(Object.keys(kinds) as NameRuleKind[]).map((kind) => (
          <MenuItem
            key={kind}
            onClick={() => {
              setAdding(null);
              setRules([...spec.rules, newRule(kind)]);
            }}
          >
            <Box>
              {kinds[kind][0]}
              <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>{kinds[kind][1]}</Typography>
            </Box>
          </MenuItem>
        ))}
      </Menu>
      <Shelf
        kept={stacks}
        onTake={(id) => {
          const { spec: kept } = stacks.find((one) => one.id === id)!;
          onChange({ ...spec, rules: kept.rules });
        }}
        onSave={async (name) => 'data' in (await save({ name, spec }))}
        problem={error as Problem | undefined}
      />
    </Card>
  );
}
