import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import Link from '@mui/material/Link';
import Radio from '@mui/material/Radio';
import FormControlLabel from '@mui/material/FormControlLabel';
import RadioGroup from '@mui/material/RadioGroup';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import {
  alphaWords,
  primariesWords,
  printRate,
  transferWords,
  type FactName,
  type Problem,
  type Rule,
  type RuleWord,
  type Word,
} from '@shale/core';
import type { ListedSource, Root } from '@shale/contract';
import { useDeclareManyMutation, usePutRuleMutation, useRulesQuery } from '../../api/api.ts';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { plural } from '../../pieces/words.ts';
import { FactField, factLabels } from '../../pieces/declaration/FactFields.tsx';

/** Facts that are said of many at once; a first frame number is each sequence's own. */
const facts: FactName[] = ['rate', 'alpha', 'transfer', 'primaries', 'pixelAspect'];

/** Which number of a name counts the frames, as a rule says it. */
const frameNumberWords = (frameNumber: number): string =>
  frameNumber === 0
    ? 'no number counts frames'
    : frameNumber === -1
      ? 'the last number counts frames'
      : `number ${Math.abs(frameNumber)}${frameNumber < 0 ? ' from the end' : ''} counts frames`;

/** A word read aloud: `25 fps, straight alpha`. */
function wordWords({ rate, alpha, transfer, primaries, first, pixelAspect, frameNumber }: RuleWord): string {
  return [
    rate && printRate(rate),
    alpha && alphaWords[alpha],
    transfer && transferWords[transfer],
    primaries && primariesWords[primaries],
    first !== undefined && `first frame ${first}`,
    pixelAspect && `pixels ${pixelAspect.num}/${pixelAspect.den}`,
    frameNumber !== undefined && frameNumberWords(frameNumber),
  ]
    .filter(Boolean)
    .join(', ');
}

const folderWords = (folder: string, root: Root): string =>
  folder === '' ? `everything in ${root.name}` : `everything in ${folder}`;

interface Props {
  ids: string[];
  /** The one that is declared, where it is one. */
  first: ListedSource | null;
  root: Root | undefined;
  /** The folder that is looked at. */
  folder: string;
  onClose: () => void;
}

/** Says what one or many sources are, or keeps it as the rule for a folder and what will come into it. */
export function DeclareDialog({ ids, first, root, folder, onClose }: Props) {
  const [word, setWord] = useState<Word>({});
  const [keeps, setKeeps] = useState<'these' | 'rule'>('these');
  const [declareMany, { error, isLoading }] = useDeclareManyMutation();
  const [putRule, { error: ruleError }] = usePutRuleMutation();
  const { data: rules = [] } = useRulesQuery(root?.id ?? '', { skip: !root });
  const target = first ? first.folder : folder;
  const said = Object.keys(word).length > 0;
  const say = async () => {
    const kept = rules.find((rule) => rule.folder === target)?.word;
    const answer =
      keeps === 'these'
        ? await declareMany({ sources: ids, set: word })
        : await putRule({ root: root!.id, rule: { folder: target, word: { ...kept, ...word } } });
    if (!('error' in answer)) onClose();
  };
  const takeAway = (rule: Rule) => void putRule({ root: root!.id, rule: { folder: rule.folder, word: {} } });
  return (
    <Dialog
      open
      onClose={onClose}
      aria-labelledby="declare-title"
      slotProps={{ paper: { sx: { width: 460, p: 2.5 } } }}
    >
      <Typography id="declare-title" variant="h1" sx={{ fontSize: 20, mb: 0.5 }}>
        {first ? `Declare ${first.name}` : `Declare ${plural(ids.length, 'source')}`}
      </Typography>
      <Typography sx={{ color: 'text.secondary', mb: 2 }}>Anything left unchanged stays as it is.</Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '100px minmax(0, 1fr) 70px', gap: 1.25, alignItems: 'center' }}>
        {facts.map((fact) => [
          <Typography key={`${fact}-label`} sx={{ fontWeight: 600 }}>
            {factLabels[fact]}
          </Typography>,
          <FactField
            key={fact}
            fact={fact}
            value={(word[fact] ?? null) as never}
            placeholder="unchanged"
            onSay={(value) => setWord({ ...word, [fact]: value })}
          />,
          <span key={`${fact}-clear`}>
            {word[fact] !== undefined && (
              <Link
                component="button"
                aria-label={`Leave ${factLabels[fact].toLowerCase()} as it is`}
                onClick={() => setWord(Object.fromEntries(Object.entries(word).filter(([key]) => key !== fact)))}
                sx={{ fontSize: 13, fontFamily: 'inherit' }}
              >
                Leave
              </Link>
            )}
          </span>,
        ])}
      </Box>
      {root && (
        <RadioGroup
          value={keeps}
          onChange={(_, value) => setKeeps(value as 'these')}
          aria-label="Applies to"
          sx={{ mt: 2 }}
        >
          <FormControlLabel
            value="these"
            control={<Radio size="small" />}
            label={`Set for ${ids.length === 1 ? 'this source' : `these ${plural(ids.length, 'source')}`}`}
          />
          <FormControlLabel
            value="rule"
            control={<Radio size="small" />}
            label={`A rule for ${folderWords(target, root)}, including future files`}
          />
        </RadioGroup>
      )}
      {rules.length > 0 && (
        <Box sx={{ mt: 1.5, pt: 1.5, borderTop: 1, borderColor: 'divider' }}>
          <Typography variant="h2" sx={{ mb: 0.5 }}>
            Rules in {root!.name}
          </Typography>
          {rules.map((rule) => (
            <Box key={rule.folder} sx={{ display: 'flex', gap: 1, alignItems: 'baseline', fontSize: 13.5 }}>
              <Box sx={{ minWidth: 0, overflowWrap: 'anywhere' }}>
                {folderWords(rule.folder, root!)}: <b>{wordWords(rule.word)}</b>
              </Box>
              <Link
                component="button"
                aria-label={`Remove the rule for ${rule.folder || root!.name}`}
                onClick={() => takeAway(rule)}
                sx={{
                  ml: 'auto',
                  fontSize: 13,
                  fontFamily: 'inherit',
                  whiteSpace: 'nowrap',
                  verticalAlign: 'baseline',
                }}
              >
                Take away
              </Link>
            </Box>
          ))}
        </Box>
      )}
      {(error ?? ruleError) && <ProblemNote problem={(error ?? ruleError) as Problem} />}
      <Box sx={{ display: 'flex', justifyContent: 'end', gap: 1, mt: 2.5 }}>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={!said || isLoading} onClick={() => void say()}>
          {keeps === 'rule' ? 'Save the rule' : 'Declare'}
        </Button>
      </Box>
    </Dialog>
  );
}
