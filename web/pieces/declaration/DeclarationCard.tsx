import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { type ReactNode } from 'react';
import { hasFrames, groundsWords, type FactName, type Grounds, type Problem, type Word } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useDeclareManyMutation } from '../../api/api.ts';
import { Card } from '../Card.tsx';
import { ProblemNote } from '../Notes.tsx';
import { Mark } from '../State.tsx';
import { AlphaEvidenceNote } from './AlphaEvidenceNote.tsx';
import { FactField, factLabels } from './FactFields.tsx';
import { RateMeaning } from './RateMeaning.tsx';

interface FactProps {
  label: string;
  grounds: Grounds;
  detail?: string;
  /** Makes what is told the person's word. */
  onConfirm?: () => void;
  /** Takes the person's word back. */
  onTakeBack: () => void;
  /** What helps to decide, over the whole width. */
  help?: ReactNode;
  children: ReactNode;
}

function Fact({ label, grounds, detail, onConfirm, onTakeBack, help, children }: FactProps) {
  const said = grounds === 'word';
  return (
    <Box
      sx={{ display: 'grid', gridTemplateColumns: '84px minmax(0, 1fr)', columnGap: 1.25, alignItems: 'center', mb: 1 }}
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
            aria-label={said ? `Clear your ${label.toLowerCase()}` : `Confirm ${label.toLowerCase()}`}
            onClick={said ? onTakeBack : onConfirm}
            sx={{ ml: 'auto', fontSize: 12.5, fontFamily: 'inherit', whiteSpace: 'nowrap', verticalAlign: 'baseline' }}
          >
            {said ? 'Clear' : 'Confirm'}
          </Link>
        )}
      </Box>
      {help && <Box sx={{ gridColumn: '1 / -1' }}>{help}</Box>}
    </Box>
  );
}

/** What a source is taken to be: each fact with its grounds, to be confirmed or changed. */
export function DeclarationCard({ source }: { source: ListedSource }) {
  // Said fact by fact: what was said a moment ago, and is not shown yet, stays.
  const [declare, { error }] = useDeclareManyMutation();
  const say = (set: Word) => void declare({ sources: [source.id], set });
  const takeBack = (fact: FactName) => void declare({ sources: [source.id], clear: [fact] });
  const { facts, declaration } = source;
  const shown: FactName[] = [
    ...(hasFrames(source) ? (['rate'] as const) : []),
    ...(facts ? (['alpha'] as const) : []),
    ...(declaration.alpha.value === 'on-colour' ? (['matte'] as const) : []),
    ...(facts ? (['transfer', 'primaries'] as const) : []),
    ...(hasFrames(source) ? (['first'] as const) : []),
    ...(facts ? (['pixelAspect'] as const) : []),
  ];
  return (
    <Card title="Taken as">
      {shown.map((fact) => {
        const { value, grounds, detail } = declaration[fact];
        const mayConfirm = value !== null && (fact !== 'alpha' || facts?.hasAlpha === true);
        return (
          <Fact
            key={fact}
            label={factLabels[fact]}
            grounds={grounds}
            detail={detail}
            onConfirm={mayConfirm ? () => say({ [fact]: value }) : undefined}
            onTakeBack={() => takeBack(fact)}
            help={
              fact === 'rate' ? (
                <RateMeaning source={source} onSay={(rate) => say({ rate })} />
              ) : (
                fact === 'alpha' &&
                facts?.hasAlpha && (
                  <AlphaEvidenceNote source={source} onSay={(matte) => say({ alpha: 'on-colour', matte })} />
                )
              )
            }
          >
            <FactField
              fact={fact}
              value={value}
              disabled={fact === 'alpha' && facts?.hasAlpha === false}
              onSay={(said) => say({ [fact]: said })}
            />
          </Fact>
        );
      })}
      {error && <ProblemNote problem={error as Problem} />}
    </Card>
  );
}
