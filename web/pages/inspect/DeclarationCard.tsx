import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState, type ReactNode } from 'react';
import {
  groundsWords,
  parseRate,
  printRate,
  problemOf,
  rateFraction,
  standardRates,
  type AlphaKind,
  type Grounds,
  type Transfer,
  type Word,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useDeclareMutation } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { Mark } from '../../pieces/State.tsx';
import { hasTime } from '../../pieces/words.ts';

/** The person's word as the source's facts show it. */
export function wordOf({ declaration }: ListedSource): Word {
  const { rate, alpha, transfer } = declaration;
  return {
    ...(rate.grounds === 'word' && rate.value && { rate: rate.value }),
    ...(alpha.grounds === 'word' && alpha.value && { alpha: alpha.value }),
    ...(transfer.grounds === 'word' && transfer.value && { transfer: transfer.value }),
  };
}

interface FactProps {
  label: string;
  grounds: Grounds;
  detail?: string;
  /** Makes what is told the person's word. */
  onConfirm?: () => void;
  /** Takes the person's word back. */
  onTakeBack: () => void;
  children: ReactNode;
}

function Fact({ label, grounds, detail, onConfirm, onTakeBack, children }: FactProps) {
  const said = grounds === 'word';
  return (
    <Box
      sx={{ display: 'grid', gridTemplateColumns: '76px minmax(0, 1fr)', columnGap: 1.25, alignItems: 'center', mb: 1 }}
    >
      <Typography sx={{ fontWeight: 600 }}>{label}</Typography>
      {children}
      <Box
        sx={{
          gridColumn: 2,
          display: 'flex',
          gap: 0.75,
          alignItems: 'baseline',
          mt: 0.5,
          fontSize: 12.5,
          color: grounds === 'none' ? 'warning.main' : 'text.secondary',
        }}
      >
        <Mark severity={grounds === 'none' ? 'doubt' : 'note'} />
        <span>
          {groundsWords[grounds]}
          {detail ? `: ${detail}` : ''}
        </span>
        {(said || onConfirm) && (
          <Link
            component="button"
            aria-label={said ? `Take your word for ${label.toLowerCase()} back` : `Confirm ${label.toLowerCase()}`}
            onClick={said ? onTakeBack : onConfirm}
            sx={{ ml: 'auto', fontSize: 12.5, fontFamily: 'inherit', whiteSpace: 'nowrap', verticalAlign: 'baseline' }}
          >
            {said ? 'Take back' : 'Confirm'}
          </Link>
        )}
      </Box>
    </Box>
  );
}

const alphas: [AlphaKind, string][] = [
  ['straight', 'straight'],
  ['premultiplied', 'premultiplied on black'],
  ['ignore', 'ignore it'],
  ['none', 'none'],
];
const transfers: [Transfer, string][] = [
  ['srgb', 'sRGB'],
  ['linear', 'linear'],
];
const other = 'other';

/** What a source is taken to be: each fact with its grounds, to be confirmed or changed. */
export function DeclarationCard({ source }: { source: ListedSource }) {
  const [declare, { error }] = useDeclareMutation();
  const [typed, setTyped] = useState<string | null>(null);
  const { rate, alpha, transfer } = source.declaration;
  const say = (word: Word) => void declare({ id: source.id, word: { ...wordOf(source), ...word } });
  const takeBack = (fact: keyof Word) => {
    const { [fact]: _, ...rest } = wordOf(source);
    void declare({ id: source.id, word: rest });
  };
  const sayRate = (text: string) => {
    try {
      say({ rate: parseRate(text) });
      setTyped(null);
    } catch {
      setTyped(text);
    }
  };
  const refusal = typed === null || typed === '' ? undefined : problemIn(typed);
  const standard = standardRates.map(rateFraction);
  const current = rate.value ? rateFraction(rate.value) : '';
  const options = current && !standard.includes(current) ? [...standard, current] : standard;
  return (
    <Card title="Taken as">
      {hasTime(source) && (
        <Fact
          label="Rate"
          grounds={rate.grounds}
          detail={rate.detail}
          onConfirm={rate.value ? () => say({ rate: rate.value! }) : undefined}
          onTakeBack={() => takeBack('rate')}
        >
          {typed === null ? (
            <TextField
              select
              value={current}
              onChange={({ target }) => (target.value === other ? setTyped('') : sayRate(target.value))}
              slotProps={{ htmlInput: { 'aria-label': 'Rate' }, select: { displayEmpty: true } }}
            >
              <MenuItem value="" disabled>
                not declared
              </MenuItem>
              {options.map((fraction) => (
                <MenuItem key={fraction} value={fraction}>
                  {printRate(parseRate(fraction))}
                  {fraction.includes('/') ? ` (${fraction})` : ''}
                </MenuItem>
              ))}
              <MenuItem value={other}>another rate</MenuItem>
            </TextField>
          ) : (
            <TextField
              autoFocus
              placeholder="24, 23.976 or 24000/1001"
              value={typed}
              error={refusal !== undefined}
              helperText={refusal}
              onChange={({ target }) => setTyped(target.value)}
              onKeyDown={({ key }) => (key === 'Enter' ? sayRate(typed) : key === 'Escape' && setTyped(null))}
              onBlur={() => (typed === '' ? setTyped(null) : sayRate(typed))}
              slotProps={{ htmlInput: { 'aria-label': 'Rate in frames per second' } }}
            />
          )}
        </Fact>
      )}
      {source.facts && (
        <>
          <Fact
            label="Alpha"
            grounds={alpha.grounds}
            detail={alpha.detail}
            onConfirm={alpha.value && source.facts.hasAlpha ? () => say({ alpha: alpha.value! }) : undefined}
            onTakeBack={() => takeBack('alpha')}
          >
            <TextField
              select
              value={alpha.value ?? ''}
              disabled={!source.facts.hasAlpha}
              onChange={({ target }) => say({ alpha: target.value as AlphaKind })}
              slotProps={{ htmlInput: { 'aria-label': 'Alpha' }, select: { displayEmpty: true } }}
            >
              <MenuItem value="" disabled>
                not declared
              </MenuItem>
              {alphas.map(([value, words]) => (
                <MenuItem key={value} value={value}>
                  {words}
                </MenuItem>
              ))}
            </TextField>
          </Fact>
          <Fact
            label="Transfer"
            grounds={transfer.grounds}
            detail={transfer.detail}
            onConfirm={transfer.value ? () => say({ transfer: transfer.value! }) : undefined}
            onTakeBack={() => takeBack('transfer')}
          >
            <TextField
              select
              value={transfer.value ?? ''}
              onChange={({ target }) => say({ transfer: target.value as Transfer })}
              slotProps={{ htmlInput: { 'aria-label': 'Transfer' }, select: { displayEmpty: true } }}
            >
              <MenuItem value="" disabled>
                not declared
              </MenuItem>
              {transfers.map(([value, words]) => (
                <MenuItem key={value} value={value}>
                  {words}
                </MenuItem>
              ))}
            </TextField>
          </Fact>
        </>
      )}
      {error && <ProblemNote problem={error as never} />}
    </Card>
  );
}

function problemIn(text: string): string | undefined {
  try {
    parseRate(text);
    return undefined;
  } catch (error) {
    const { fact, wayOut } = problemOf(error);
    return `${fact} ${wayOut}`;
  }
}
