import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import {
  codecRecord,
  hasFrames,
  isAnimationFormat,
  planGiven,
  shippedReceivers,
  sizeOfPlan,
  smallSentence,
  startingPoints,
  videoWords,
  writtenAs,
  type Breach,
  type Plan,
  type Problem,
  type Spec,
} from '@shale/core';
import type { ListedSource, SearchView } from '@shale/contract';
import { useRootsQuery, useStartingSpecQuery } from '../../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../../pieces/Notes.tsx';
import { plural } from '../../../pieces/words.ts';
import { Sentence } from '../../../sentence/Sentence.tsx';
import { useChosen } from '../../useChosen.ts';
import { editorFor } from '../editors.tsx';
import { PlanProblems } from '../PlanProblems.tsx';
import { ReceiverCard, useReceiver } from '../../../names/ReceiverCard.tsx';
import { useMeant, usePlanned, useSpec } from '../useConvert.ts';
import { LoopFinder } from './LoopFinder.tsx';
import { HandedWords, useHandOver } from './HandOver.tsx';
import { decimalBytes } from './bytes.ts';
import { smallEditorFor } from './editors.tsx';
import type { Playing } from './LottieView.tsx';
import { PlayerControls } from './PlayerControls.tsx';
import { Shown, tryFile, type Looked } from './Shown.tsx';
import { TriesTable } from './TriesTable.tsx';
import { FrameBytesCard, SizeCard, TriesChart } from './TryCards.tsx';
import { beginsByItself, useSearch } from './useSearch.ts';

const toIntake = (
  <Button component={Link} to="/intake" variant="contained">
    Go to Intake
  </Button>
);

/** A small moving picture as it will be: its bytes, its edges, and every try of the search within its limit. */
export function SmallPage() {
  const { id, data: source, error } = useChosen();
  const { data: start, error: startError } = useStartingSpecQuery(id ?? '', { skip: !id });
  if (!id)
    return (
      <EmptyPage title="Nothing to make small yet" action={toIntake}>
        Choose a source on Intake: here it becomes a loop or a sticker, within as many bytes as it may have.
      </EmptyPage>
    );
  if (error ?? startError)
    return <Box sx={{ p: 3 }}>{<ProblemNote problem={(error ?? startError) as Problem} action={toIntake} />}</Box>;
  if (!source || !start) return <Loading what="Reading the source" />;
  return <Small key={source.id} source={source} start={start} />;
}

function Small({ source, start }: { source: ListedSource; start: Spec }) {
  const wanted = useSpec(source, start);
  const { spec, change } = wanted;
  const isSmall = isAnimationFormat(spec.write.format);
  useEffect(() => {
    if (!isSmall) change(startingPoints.small.of(spec));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, where something else was wanted before
  }, [isSmall]);
  const planned = usePlanned(source, spec, { measures: false });
  const { plan, error } = planned;
  if (plan && isSmall && isAnimationFormat(plan.spec.write.format))
    return <Planned {...{ source, planned, plan, ...wanted }} />;
  if (!error) return <Loading what="Working the plan out" />;
  return (
    <Box sx={{ p: 3 }}>
      <ProblemNote problem={error} action={<Button onClick={() => change(start)}>Begin anew</Button>} />
    </Box>
  );
}

interface PlannedProps extends ReturnType<typeof useSpec> {
  source: ListedSource;
  plan: Plan;
  planned: ReturnType<typeof usePlanned>;
}

/** Which try is taken: the one that was chosen, the best, or the smallest where none is within the limit. */
function takenOf({ tries, best }: SearchView, given: number | null): number {
  const chosen = given === null ? -1 : tries.findIndex((one) => one.given === given);
  if (chosen >= 0) return chosen;
  return best ?? tries.reduce((least, one, at) => (one.bytes < tries[least]!.bytes ? at : least), 0);
}

function Planned({ source, spec, change, changeFormat, plan, planned }: PlannedProps) {
  const { data: roots = [] } = useRootsQuery();
  const [beside, setBeside] = useState<number | null>(null);
  const [playing, setPlaying] = useState<Playing>({ loop: true, reverse: false, onHover: false, at: null });
  const { rested, settled: mayRun } = planned;
  const size = sizeOfPlan(plan);
  const search = useSearch(
    source,
    mayRun ? rested : null,
    beginsByItself(plan, (size?.width ?? 0) * (size?.height ?? 0)),
  );
  const { view, isCurrent } = search;
  const given = spec.video.given;
  const taken = view && view.tries.length > 0 ? takenOf(view, given) : null;
  const one = taken === null ? undefined : view!.tries[taken];
  useEffect(() => setBeside(null), [view?.id]);
  const take = (at: number) => {
    change({ ...spec, video: { ...spec.video, given: view!.tries[at]!.given } });
    if (beside === at) setBeside(taken);
  };
  // No picture element shows it.
  const isPlayed = plan.spec.write.format === 'lottie';
  const looked = (at: number): Looked => {
    const { width, height, halo } = view!.tries[at]!;
    const player = isPlayed ? { player: playing } : {};
    return { number: at + 1, src: tryFile(view!.id, at), width, height, halo, ...player };
  };
  const meant = useMeant(source, spec, plan);
  const receiver = useReceiver({ source: source.id });
  const breaches = meant.breaches ?? [];
  // The desk has a counter for each receiver of small moving pictures that ships.
  const hasCounter = receiver?.receiver.fileBytes != null && Object.hasOwn(shippedReceivers, receiver.id);
  const counter = hasCounter ? receiver.id : undefined;
  const handing = useHandOver(view, taken, counter);
  const { write } = plan.spec;
  const record = codecRecord(write.format)!;
  const isOver = one !== undefined && view!.limit !== null && one.bytes > view!.limit;
  return (
    <Box
      sx={{
        ...{ display: 'grid', gridTemplateColumns: 'minmax(320px, 470px) minmax(0, 1fr)', gap: 2.5, height: '100%' },
        ...{ p: '16px 24px 14px', minHeight: 0 },
      }}
    >
      <Box
        sx={{ display: 'grid', gridTemplateRows: 'minmax(220px, 1fr)', gridAutoRows: 'auto', gap: 1.5, minHeight: 0 }}
      >
        {one ? (
          <Shown
            first={looked(taken!)}
            {...(beside !== null && beside !== taken && view!.tries[beside] ? { second: looked(beside) } : {})}
            isOld={!isCurrent}
          />
        ) : (
          <Waiting search={search} mayRun={mayRun} />
        )}
        {one && (
          <SizeCard
            view={view!}
            one={one}
            perSecond={record.animation?.perSecond}
            words={`${record.words}, ${videoWords(write.format, { ...planGiven(plan, one.given).plan.spec.video, limit: null })}`}
          />
        )}
        {one && isPlayed && <PlayerControls playing={playing} frames={one.frames} onPlay={setPlaying} />}
        {one?.frameBytes && one.frameBytes.length > 1 && <FrameBytesCard frameBytes={one.frameBytes} />}
      </Box>
      <Box sx={{ display: 'grid', gridTemplateRows: 'auto minmax(0, 1fr) auto', rowGap: 1.5, minHeight: 0 }}>
        <Box>
          <Typography
            variant="h1"
            sx={{ position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)' }}
          >
            Small moving picture of {source.name}
          </Typography>
          <Sentence
            size={19}
            parts={smallSentence(plan, meant.receiver && { name: meant.receiver.name, trips: breaches.length > 0 })}
            editor={(control, close) =>
              smallEditorFor(control, { spec, change, changeFormat }) ??
              editorFor(control, { source, plan, spec, roots, change, changeFormat, close })
            }
          />
        </Box>
        <Box sx={{ display: 'grid', gap: 1.5, alignContent: 'start', minHeight: 0, overflowY: 'auto' }}>
          <PlanProblems
            {...{ source, spec, plan, change }}
            target={planned.target}
            isRefused={planned.runError !== undefined}
            problems={[planned.runError, planned.error, search.problem, view?.problem ?? undefined, ...plan.problems]}
          />
          {isCurrent && view?.cannot && (
            <ProblemNote
              problem={{
                code: 'limit-not-reached',
                fact: `With all given up that may be it still has ${decimalBytes(one?.bytes ?? 0)}: within ${decimalBytes(view.limit ?? 0)} it cannot be.`,
                wayOut: 'Raise the limit, let more be given up, or write another format.',
              }}
            />
          )}
          {breaches.length > 0 && (
            <ReceiverCard
              meant={{ source: source.id }}
              breaches={meant.breaches}
              onMend={(some: Breach[]) => change(meant.conform(some))}
            />
          )}
          {view && one && (
            <>
              {view.tries.length > 1 && <TriesChart view={view} taken={taken!} />}
              <TriesTable {...{ plan, view, beside }} taken={taken!} onTake={take} onBeside={setBeside} />
            </>
          )}
          <SearchWords search={search} mayRun={mayRun} />
          <HandedWords {...handing} />
          {hasFrames(source) && <LoopFinder {...{ source, spec, change }} />}
        </Box>
        <Box sx={{ display: 'flex', gap: 1, justifyContent: 'flex-end', alignItems: 'center', flexWrap: 'wrap' }}>
          <Typography sx={{ fontSize: 13, color: 'text.secondary', mr: 'auto' }} className="mono">
            {[plan.into.root, plan.into.folder, writtenAs(plan.into)].filter(Boolean).join('/')}
          </Typography>
          <Button component={Link} to={`/convert/${source.id}`} variant="outlined" size="large">
            All of Convert
          </Button>
          {counter && (
            <Button
              variant="outlined"
              size="large"
              disabled={!one || !isCurrent || handing.isHanding}
              onClick={handing.hand}
            >
              Hand to the upload desk
            </Button>
          )}
          <Button
            variant="contained"
            size="large"
            disabled={!planned.mayRun || !one || !isCurrent || isOver}
            onClick={() => void planned.run({ ...spec, video: { ...spec.video, given: one!.given } })}
          >
            Keep this one
          </Button>
        </Box>
      </Box>
    </Box>
  );
}

type SearchProps = { search: ReturnType<typeof useSearch>; mayRun: boolean };

/** What is there before the first try is. */
function Waiting({ search: { view, begin, starting, isCurrent }, mayRun }: SearchProps) {
  const isComing = starting || (isCurrent && view?.state === 'searching');
  return (
    <Box
      sx={{
        ...{ display: 'grid', placeItems: 'center', border: 1, borderColor: 'divider', borderRadius: '5px', p: 3 },
        ...{ bgcolor: 'background.paper', textAlign: 'center' },
      }}
    >
      {isComing ? (
        <Loading what="Making the first try" />
      ) : (
        <Box>
          <Typography sx={{ mb: 1.5 }}>
            {mayRun ? 'The moving result is made in full before it is shown.' : 'What is in its way is told beside.'}
          </Typography>
          {mayRun && (
            <Button variant="contained" onClick={() => void begin()}>
              Make it
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}

/** Whether the search is at work, and how it is steered. */
function SearchWords({ search: { view, isCurrent, begin, stop, goOn, starting }, mayRun }: SearchProps) {
  if (!view || (!isCurrent && !mayRun)) return null;
  if (!isCurrent)
    return (
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 13 }}>
        Made for what was wanted before.
        <Button size="small" disabled={starting} onClick={() => void begin()}>
          Make it again
        </Button>
      </Box>
    );
  const made = plural(view.tries.length, 'encode');
  return (
    <Box role="status" sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 13, minHeight: 30 }}>
      {view.state === 'searching' && (
        <>
          {view.limit === null ? 'Making it.' : `Searching, ${made} so far.`}
          <Button size="small" onClick={stop}>
            Stop
          </Button>
        </>
      )}
      {(view.state === 'stopped' || view.state === 'failed') && (
        <>
          {view.state === 'stopped' ? `Stopped after ${made}.` : `Ended after ${made}.`}
          <Button size="small" onClick={goOn}>
            Go on
          </Button>
        </>
      )}
    </Box>
  );
}
