import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { hasFrames, type Breach, type Plan, type Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { ReceiverCard } from '../../../names/ReceiverCard.tsx';
import { ProblemNote } from '../../../pieces/Notes.tsx';
import { plural } from '../../../pieces/words.ts';
import { PlanProblems } from '../PlanProblems.tsx';
import type { usePlanned } from '../useConvert.ts';
import { decimalBytes } from './bytes.ts';
import { HandedWords } from './HandOver.tsx';
import { LoopFinder } from './LoopFinder.tsx';
import { TriesTable } from './TriesTable.tsx';
import { TriesChart } from './TryCards.tsx';
import type { useSmall } from './useSmall.ts';

type Small = ReturnType<typeof useSmall>;

interface Props {
  source: ListedSource;
  spec: Spec;
  change: (spec: Spec) => void;
  plan: Plan;
  planned: ReturnType<typeof usePlanned>;
  small: Small;
}

/** What is in the way, every try of the search, and what else can be done. */
export function SmallTries({ source, spec, change, plan, planned, small }: Props) {
  const { search, taken, beside, breaches, meant } = small;
  const { view, isCurrent } = search;
  return (
    <Box sx={{ display: 'grid', gap: 1.5, alignContent: 'start', minHeight: 0, overflowY: 'auto' }}>
      <PlanProblems
        {...{ source, spec, plan, change }}
        target={planned.target}
        isRefused={planned.runError !== undefined}
        problems={[planned.runError, planned.error, search.problem, view?.problem ?? undefined, ...plan.problems]}
      />
      {isCurrent && view?.cannot && <CannotNote small={small} />}
      {breaches.length > 0 && (
        <ReceiverCard
          meant={{ source: source.id }}
          breaches={meant.breaches}
          onMend={(some: Breach[]) => change(meant.conform(some))}
        />
      )}
      {view && taken !== null && (
        <>
          {view.tries.length > 1 && <TriesChart view={view} taken={taken} />}
          <TriesTable {...{ plan, view, taken, beside }} onTake={small.take} onBeside={small.setBeside} />
        </>
      )}
      <SearchWords small={small} />
      <HandedWords {...small.handing} />
      {hasFrames(source) && <LoopFinder {...{ source, spec, change }} />}
    </Box>
  );
}

function CannotNote({ small: { search, one } }: { small: Small }) {
  return (
    <ProblemNote
      problem={{
        code: 'limit-not-reached',
        fact: `With everything given up that is allowed it still has ${decimalBytes(one?.bytes ?? 0)}: within ${decimalBytes(search.view?.limit ?? 0)} it cannot be.`,
        wayOut: 'Raise the limit, allow more to be given up, or choose another format.',
      }}
    />
  );
}

/** Whether the search is at work, and how it is steered. */
function SearchWords({ small: { search, mayRun } }: { small: Small }) {
  const { view, isCurrent, begin, stop, goOn, starting } = search;
  if (!view || (!isCurrent && !mayRun)) return null;
  const made = plural(view.tries.length, 'encode');
  const row = { display: 'flex', alignItems: 'center', gap: 1, fontSize: 13, minHeight: 30 } as const;
  if (!isCurrent)
    return (
      <Box sx={row}>
        Made with earlier settings.
        <Button size="small" disabled={starting} onClick={() => void begin()}>
          Make it again
        </Button>
      </Box>
    );
  if (view.state === 'ended') return null;
  const words =
    view.state === 'searching'
      ? view.limit === null
        ? 'Making it.'
        : `Searching, ${made} so far.`
      : `${view.state === 'stopped' ? 'Stopped' : 'Ended'} after ${made}.`;
  return (
    <Box role="status" sx={row}>
      {words}
      <Button size="small" onClick={view.state === 'searching' ? stop : goOn}>
        {view.state === 'searching' ? 'Stop' : 'Resume'}
      </Button>
    </Box>
  );
}
