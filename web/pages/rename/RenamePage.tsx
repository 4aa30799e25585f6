import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { Link } from 'react-router';
import { useState } from 'react';
import { conformNaming, type NamingSpec, type Problem } from '@shale/core';
import type { Rename as RenameEntry, RenameView } from '@shale/contract';
import {
  usePlanRenameQuery,
  useRenamesQuery,
  useRootsQuery,
  useSourceQuery,
  useStartRenameMutation,
  useStopRenameMutation,
  useUndoRenameMutation,
} from '../../api/api.ts';
import { ReceiverCard, useReceiver } from '../../names/ReceiverCard.tsx';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { plural, printCount } from '../../pieces/words.ts';
import { namesGiven, namingBegun, specChanged } from '../../state/naming.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { sourceChosen } from '../../state/view.ts';
import { useRested } from '../../pieces/useRested.ts';
import { NamesTable } from './NamesTable.tsx';
import { RuleStack } from './RuleStack.tsx';
import { SourcesCard } from './SourcesCard.tsx';
import { WhereCard } from './WhereCard.tsx';
import { goesBack } from './way.ts';

/** Keystrokes that follow one another so closely are worked out together, in milliseconds. */
const rest = 120;

const toIntake = (
  <Button component={Link} to="/intake" variant="contained">
    Go to Intake
  </Button>
);

/** New names for files whose bytes stay as they are: every one shown before any is given. */
export function RenamePage() {
  const { sources } = useAppSelector((state) => state.naming);
  const looked = useAppSelector((state) => state.view.source);
  const ids = sources.length > 0 ? sources : looked ? [looked] : [];
  if (ids.length === 0) {
    return (
      <EmptyPage title="Nothing to rename yet" action={toIntake}>
        Select sources on Intake and press Rename to see every old and new name; each rename can be undone from History.
      </EmptyPage>
    );
  }
  return <Rename ids={ids} />;
}

function Rename({ ids }: { ids: string[] }) {
  const dispatch = useAppDispatch();
  const { spec, begun } = useAppSelector((state) => state.naming);
  const receiver = useReceiver('names');
  const { data: roots = [] } = useRootsQuery();
  const { data: first } = useSourceQuery(ids[0]!);
  const rested = useRested(spec, rest);
  const {
    currentData,
    data: plan = currentData,
    error,
    isFetching,
  } = usePlanRenameQuery({ sources: ids, spec: rested, receiver: receiver?.id });
  const setSpec = (next: typeof spec) => dispatch(specChanged(next));
  const setSources = (sources: string[]) => dispatch(namingBegun({ sources }));
  const own = roots.find(({ id }) => id === first?.root);

  if (!plan) {
    const gone = (error as Problem | undefined)?.code === 'source-not-found';
    // The scan that finds the new names is on its way.
    if (error && !(gone && begun)) {
      return (
        <Box sx={{ p: 3 }}>
          <ProblemNote problem={error as Problem} action={toIntake} />
        </Box>
      );
    }
    return <Loading what={begun ? 'Looking at the new names' : 'Working out the names'} />;
  }
  const stale = isFetching || rested !== spec;
  const target = roots.find(({ writable }) => writable);
  const copying = target && {
    words: `Copy into ${target.name}`,
    onPress: () => setSpec({ ...spec, mode: 'copy', into: { ...spec.into, root: target.id } }),
  };
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateRows: 'auto minmax(0, 1fr) auto',
        height: { xs: 'auto', md: '100%' },
        gridTemplateColumns: 'minmax(0, 1fr)',
        p: '18px 24px 14px',
        rowGap: 1.75,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'start', gap: 3 }}>
        <Typography
          component="h1"
          data-testid="rename-sentence"
          sx={{ fontSize: 23, lineHeight: 1.35, letterSpacing: '-.005em', overflowWrap: 'anywhere', minHeight: 31 }}
        >
          {plan.sentence}
        </Typography>
        <Button component={Link} to="/rename/history" variant="outlined" sx={{ ml: 'auto', flex: 'none' }}>
          History
        </Button>
      </Box>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '368px minmax(0, 1fr)' },
          gap: 2.5,
          minHeight: 0,
        }}
      >
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5, minHeight: 0, overflowY: 'auto', pr: 0.5 }}>
          <RuleStack spec={spec} onChange={setSpec} idle={plan.idle} problems={plan.problems} />
          <WhereCard spec={spec} roots={roots} own={own} several={ids.length > 1} onChange={setSpec} />
          <ReceiverCard
            meant="names"
            breaches={plan.held?.breaches}
            loads={plan.held?.loads}
            onMend={(breaches) => receiver && setSpec(conformNaming(spec, receiver.receiver, breaches))}
          />
          {ids.length > 1 && <SourcesCard plan={plan} sources={ids} onSources={setSources} />}
        </Box>
        <Box sx={{ display: 'grid', gridTemplateRows: 'minmax(0, 1fr) auto', minHeight: 0 }}>
          <NamesTable plan={plan} />
          <Against plan={plan} error={error as Problem | undefined} copying={copying} />
        </Box>
      </Box>
      <Outcome plan={plan} ids={ids} stale={stale} />
    </Box>
  );
}

/** What forbids the run, and what is worth knowing before it. */
function Against({
  plan,
  error,
  copying,
}: {
  plan: RenameView;
  error?: Problem;
  /** What is done instead where the root of the sources may only be read. */
  copying?: { words: string; onPress: () => void };
}) {
  const { mode } = plan.spec;
  // That nothing changes yet is told by the names themselves.
  const problems = [...(error ? [error] : []), ...plan.problems].filter(({ code }) => code !== 'nothing-changes');
  if (problems.length === 0 && plan.doubts.length === 0) return <span />;
  return (
    <Box sx={{ display: 'grid', gap: 1, mt: 1.5, maxHeight: 210, overflowY: 'auto' }}>
      {problems.map((problem) => (
        <ProblemNote
          key={problem.code + problem.fact}
          problem={problem}
          action={
            copying && problem.code === 'root-read-only' && (mode === 'rename' || mode === 'move') ? (
              <Button onClick={copying.onPress}>{copying.words}</Button>
            ) : undefined
          }
        />
      ))}
      {plan.doubts.slice(0, 5).map(({ fact, wayOut, code, subject }) => (
        <Box key={code + (subject ?? '')} sx={{ display: 'flex', gap: 1, fontSize: 13 }}>
          <State severity="doubt">{fact}</State>
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {wayOut}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** Runs a plan and takes it back; what was met is kept for the rules that it was run with. */
function useRun(plan: RenameView, ids: string[]) {
  const dispatch = useAppDispatch();
  const { spec, begun } = useAppSelector((state) => state.naming);
  const { data: renames = [] } = useRenamesQuery();
  const [start, { isLoading: starting }] = useStartRenameMutation();
  const [met, setMet] = useState<{ spec: NamingSpec; problem: Problem } | null>(null);
  const startError = met?.spec === spec ? met.problem : null;
  const [undo, { error: undoError, isLoading: undoing }] = useUndoRenameMutation();
  const current = renames.find(({ id }) => id === begun);
  const given = ({ id, sources }: RenameEntry, leave: boolean) => {
    dispatch(namesGiven({ id, sources: leave ? sources : [] }));
    // Inspect and Convert open what it is called now.
    if (leave && sources[0]) dispatch(sourceChosen(sources[0]));
  };
  const run = async () => {
    const done = await start({ sources: ids, spec, digest: plan.digest });
    if ('data' in done && done.data) given(done.data, spec.mode === 'rename' || spec.mode === 'move');
    else setMet({ spec, problem: done.error as Problem });
  };
  const back = async (id: string) => {
    const done = await undo({ id, rest: false });
    if ('data' in done && done.data) given(done.data, true);
  };
  const ended = current?.state === 'back' || current?.state === 'stuck' ? current.problem : null;
  const problem = (startError ?? undoError ?? ended) as Problem | null;
  const isBack = current !== undefined && goesBack(current, renames);
  return {
    spec,
    current,
    isBack,
    run,
    starting,
    back,
    undoing,
    problem,
    again: startError ? () => setMet(null) : undefined,
  };
}

const verbs = { rename: 'Rename', copy: 'Copy', link: 'Link', move: 'Move' } as const;

/** The run: what it will do, how it goes, how it went, and the way back. */
function Outcome({ plan, ids, stale }: { plan: RenameView; ids: string[]; stale: boolean }) {
  const { spec, current, isBack, run, starting, back, undoing, problem, again } = useRun(plan, ids);
  const { changed } = plan.counts;
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      {problem && (
        <ProblemNote problem={problem} action={again ? <Button onClick={again}>Look again</Button> : undefined} />
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, minHeight: 44 }} data-testid="outcome">
        {current?.state === 'running' ? (
          <Running entry={current} isBack={isBack} />
        ) : (
          <>
            {current?.state === 'done' || current?.state === 'undone' ? (
              <>
                <State severity="note">
                  {isBack ? 'Names restored' : 'Done'}: {plural(current.files, 'file')}.
                </State>
                <Button
                  variant="outlined"
                  aria-keyshortcuts={isBack ? undefined : 'Control+Z'}
                  disabled={undoing || current.state === 'undone'}
                  onClick={() => void back(current.id)}
                >
                  {isBack ? 'Do it again' : 'Undo'}
                </Button>
              </>
            ) : (
              <Typography sx={{ color: 'text.secondary', fontSize: 13.5 }}>{willWords(plan)}</Typography>
            )}
            <Button
              variant="contained"
              size="large"
              aria-keyshortcuts="Control+Enter"
              sx={{ ml: 'auto' }}
              disabled={stale || starting || changed === 0 || plan.problems.length > 0}
              onClick={() => void run()}
            >
              {verbs[spec.mode]} {plural(changed, 'file')}
            </Button>
          </>
        )}
      </Box>
    </Box>
  );
}

/** What the run will do, before it does. */
function willWords({ counts: { changed, overlaps, swaps, caseOnly, faults } }: RenameView): string {
  if (faults > 0) return `${plural(faults, 'name')} in the way. Nothing is touched until you run it.`;
  if (changed === 0) return 'Nothing changes yet.';
  const told = [
    overlaps > 0 && `${plural(overlaps, 'name takes a name', 'names take names')} that other files give up`,
    swaps > 0 && `${printCount(swaps)} change places`,
    caseOnly > 0 && `${printCount(caseOnly)} in capitals only`,
  ].filter(Boolean);
  return `${told.length > 0 ? `${told.join(', ')}. ` : ''}All or nothing; undo it from History.`;
}

function Running({ entry, isBack }: { entry: RenameEntry; isBack: boolean }) {
  const [stop] = useStopRenameMutation();
  return (
    <>
      <Box sx={{ flex: 1 }}>
        <Typography sx={{ fontSize: 13.5 }}>
          {isBack ? 'Undo: ' : ''}
          {entry.sentence} {printCount(entry.settled)} of {printCount(entry.files)}
        </Typography>
        <LinearProgress
          variant="determinate"
          aria-label="Rename"
          value={(100 * entry.settled) / Math.max(1, entry.files)}
          sx={{ height: 6, borderRadius: 3, mt: 0.5 }}
        />
      </Box>
      <Button variant="outlined" onClick={() => void stop(entry.id)}>
        Stop
      </Button>
    </>
  );
}
