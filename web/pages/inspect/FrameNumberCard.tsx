import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import Typography from '@mui/material/Typography';
import { useNavigate } from 'react-router';
import { fileOfFrame, numberRuleFor, frameSpan, numbersIn, type Problem, type RuleWord } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { usePutRuleMutation, useRulesQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';

/** A name with one of its numbers in bold. */
function Marked({ name, start, end }: { name: string; start: number; end: number }) {
  return (
    <Box component="span" className="mono" sx={{ fontSize: 13, overflowWrap: 'anywhere' }}>
      {name.slice(0, start)}
      <Box component="b" sx={{ color: 'primary.main', textDecoration: 'underline', textUnderlineOffset: '3px' }}>
        {name.slice(start, end)}
      </Box>
      {name.slice(end)}
    </Box>
  );
}

/** Which number of the names counts the frames: no rule is always right, so that a person can say it for a folder. */
export function FrameNumberCard({ source }: { source: ListedSource }) {
  const { data: rules = [] } = useRulesQuery(source.root);
  const [putRule, { error, isLoading }] = usePutRuleMutation();
  const navigate = useNavigate();
  const { folder, root } = source;
  const first = frameSpan(source.coverage)?.first ?? 0;
  const name = source.kind === 'sequence' ? fileOfFrame({ ...source, folder: '' }, first)! : source.name;
  const numbers = numbersIn(name);
  const rule = numberRuleFor(rules, folder);
  const said = rule?.word.frameNumber;
  // One number leaves nothing to choose, unless somebody has said that it counts nothing.
  if (source.kind === 'clip' || source.kind === 'sound' || (numbers.length < 2 && said === undefined)) return null;
  const value = said === undefined ? 'rule' : String(said < 0 ? numbers.length + said + 1 : said);
  const choose = async (chosen: string) => {
    const { frameNumber: _, ...kept }: RuleWord = rules.find((rule) => rule.folder === folder)?.word ?? {};
    const word = chosen === 'rule' ? kept : { ...kept, frameNumber: Number(chosen) };
    const answer = await putRule({ root, rule: { folder, word } });
    // Other numbers make other sources: this one may be gone with its name.
    if (!('error' in answer)) void navigate(`/intake?${new URLSearchParams({ root, ...(folder && { folder }) })}`);
  };
  return (
    <Card title="Frame number">
      <Typography variant="body2" sx={{ color: 'text.secondary', mb: 0.5 }}>
        Which number in the names counts the frames. Applies to everything in {folder || 'this root'}
        {rule && rule.folder !== folder ? `; now set for ${rule.folder || 'the whole root'}` : ''}.
      </Typography>
      <RadioGroup aria-label="Frame number" value={value} onChange={(_, chosen) => void choose(chosen)}>
        <FormControlLabel
          value="rule"
          disabled={isLoading}
          control={<Radio size="small" sx={{ py: 0.5 }} />}
          label={<Typography variant="body2">Automatic, from the names in the folder</Typography>}
        />
        {numbers.map((run, at) => (
          <FormControlLabel
            key={run.start}
            value={String(at + 1)}
            disabled={isLoading}
            control={<Radio size="small" sx={{ py: 0.5 }} />}
            label={<Marked name={name} {...run} />}
          />
        ))}
        <FormControlLabel
          value="0"
          disabled={isLoading}
          control={<Radio size="small" sx={{ py: 0.5 }} />}
          label={<Typography variant="body2">None: every file is a still</Typography>}
        />
      </RadioGroup>
      {error && <ProblemNote problem={error as Problem} />}
    </Card>
  );
}
