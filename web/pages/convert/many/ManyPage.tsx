import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useEffect, useMemo, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import {
  mostOutputs,
  printBytes,
  sentenceOfBatch,
  someOf,
  sourcesSaid,
  specFor,
  type Problem,
  type Spec,
  type SpokenSources,
} from '@shale/core';
import type { BatchPlan, ListedSource, PlannedPart } from '@shale/contract';
import {
  useBatchWantedQuery,
  useKeepSelectionMutation,
  usePlanQuery,
  useRootsQuery,
  useSelectionQuery,
  useSomeSourcesQuery,
  useStartingSpecQuery,
} from '../../../api/api.ts';
import { Loading, ProblemNote } from '../../../pieces/Notes.tsx';
import { Segments } from '../../../pieces/Segments.tsx';
import { plural, printCount, printLeft } from '../../../pieces/words.ts';
import { Sentence } from '../../../sentence/Sentence.tsx';
import { keepBatch } from '../../../state/keptBatch.ts';
import { useAppDispatch } from '../../../state/store.ts';
import { manyOpened } from '../../../state/view.ts';
import { OrderForm, type Begun } from '../../../standing/OrderForm.tsx';
import { anyFits } from '../../../standing/orderWords.ts';
import { editorFor } from '../editors.tsx';
import { afterSentence } from '../../../sentence/after.ts';
import { AlsoWrite } from './AlsoWrite.tsx';
import { ChosenSide, type Side } from './ChosenSide.tsx';
import { ManyEditor } from './ManyEditor.tsx';
import { mostInRow, OneAfterAnother } from './OneAfterAnother.tsx';
import { needsOf } from './needs.ts';
import { fetchedTogether, SourceList, shownKinds, type Shown } from './SourceList.tsx';
import { startOfMany, useManyPlanned, useWish } from './useMany.ts';
import { useTried } from './useTried.ts';

const toIntake = (
  <Button component={Link} to="/intake" variant="contained">
    Go to Intake
  </Button>
);

const Told = ({ problem }: { problem: unknown }) => (
  <Box sx={{ p: 3 }}>
    <ProblemNote problem={problem as Problem} action={toIntake} />
  </Box>
);

/** Many sources said, worked out and run as one; `of-` and a batch opens what that batch wanted once more. */
export function ManyPage() {
  const { selection = '' } = useParams();
  return selection.startsWith('of-') ? (
    <Again batch={selection.slice(3)} />
  ) : (
    <Selected key={selection} selection={selection} />
  );
}

/** Opens what a batch wanted, of the sources that it had: only what is new is made then. */
function Again({ batch }: { batch: string }) {
  const navigate = useNavigate();
  const { data, error } = useBatchWantedQuery(batch);
  const [keep, { error: notKept }] = useKeepSelectionMutation();
  useEffect(() => {
    if (!data) return;
    void keep(data.sources).then((kept) => {
      if (!('data' in kept) || !kept.data) return;
      keepBatch(kept.data.id, { batch: data.batch, makes: 'new' });
      void navigate(`/convert/many/${kept.data.id}`, { replace: true });
    });
  }, [data, keep, navigate]);
  return (error ?? notKept) ? <Told problem={error ?? notKept} /> : <Loading what="Reading the batch" />;
}

function Selected({ selection }: { selection: string }) {
  const dispatch = useAppDispatch();
  useEffect(() => {
    dispatch(manyOpened(selection));
  }, [dispatch, selection]);
  const { data, error } = useSelectionQuery(selection);
  const ids = data?.sources;
  const first = useMemo(() => ids?.slice(0, fetchedTogether) ?? [], [ids]);
  const { data: sources, error: notRead } = useSomeSourcesQuery(first, { skip: first.length === 0 });
  // What has alpha says how it is to come out: a first source without any would drop that of the others.
  const example =
    sources?.find(
      ({ declaration }) => declaration.alpha.value === 'premultiplied' || declaration.alpha.value === 'straight',
    ) ?? sources?.[0];
  const { data: start, error: noStart } = useStartingSpecQuery(example?.id ?? '', { skip: !example });
  if (error ?? notRead ?? noStart) return <Told problem={error ?? notRead ?? noStart} />;
  if (!ids || !sources) return <Loading what="Reading the sources" />;
  if (sources.length === 0)
    return (
      <Told
        problem={{
          code: 'source-not-found',
          fact: 'None of these sources exists any more.',
          wayOut: 'Select others on Intake.',
        }}
      />
    );
  if (!start) return <Loading what="Reading the sources" />;
  return <Many {...{ selection, ids, sources, start }} />;
}

interface ManyProps {
  selection: string;
  ids: readonly string[];
  /** The first of them. */
  sources: readonly ListedSource[];
  start: Spec;
}

function Many({ selection, ids, sources, start }: ManyProps) {
  const [params, setParams] = useSearchParams();
  const wish = useWish(selection, () => startOfMany(start, sources));
  const { batch, makes } = wish;
  const planned = useManyPlanned(selection, wish, { sources, count: ids.length });
  const { plan, bySource, spoken } = planned;
  const { data: roots = [] } = useRootsQuery();
  const chosenId = params.get('source') ?? sources[0]!.id;
  const output = Math.min(Number(params.get('output') ?? 0) || 0, batch.outputs.length - 1);
  const shown = shownKinds.find((kind) => kind === params.get('show')) ?? 'all';
  const say = (name: string, value: string | null) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === null) next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  const tried = useTried(ids, batch);
  const [side, setSide] = useState<Side>('plan');
  const [isKeeping, setKeeping] = useState(false);
  const [inRow, setInRow] = useState(false);
  const navigate = useNavigate();
  const wantedIds = useMemo(() => [chosenId], [chosenId]);
  const { data: looked } = useSomeSourcesQuery(wantedIds);
  const chosen = sources.find(({ id }) => id === chosenId) ?? looked?.[0] ?? sources[0]!;
  const { data: examplePlan } = usePlanQuery({ source: chosen.id, spec: batch.outputs[output]! });
  const needs = useMemo(() => {
    const leavesOut = (part: PlannedPart) => specFor(batch, part.source, part.output).missing === 'leave-out';
    return needsOf(plan?.parts ?? [], spoken.usualRate, leavesOut);
  }, [plan, spoken, batch]);
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateRows: 'auto minmax(0, 1fr) auto',
        height: { xs: 'auto', md: '100%' },
        gridTemplateColumns: 'minmax(0, 1fr)',
        p: '14px 24px 12px',
        rowGap: 1.25,
      }}
    >
      <Sentence
        size={batch.outputs.length > 1 ? 20 : 22}
        tell={(whole) => sentenceOfBatch(batch, sourcesSaid(spoken), spoken.rates, whole)}
        after={
          <>
            {batch.outputs.length < mostOutputs && <AlsoWrite onWrite={wish.also} />}
            {ids.length > 1 && ids.length <= mostInRow && (
              <>
                {' '}
                <ButtonBase onClick={() => setInRow(true)} sx={afterSentence}>
                  One after another
                </ButtonBase>
              </>
            )}
          </>
        }
        editor={(control, close, at) => {
          if (control === 'source' || control === 'rate')
            return (
              <ManyEditor
                {...{ control, ids, sources }}
                rate={spoken.usualRate}
                undeclared={needs.byCode.get('rate-not-declared') ?? []}
              />
            );
          const spec = batch.outputs[at]!;
          return (
            <Box sx={{ display: 'grid', gap: 1.5 }}>
              {examplePlan &&
                editorFor(control, {
                  ...{ source: chosen, plan: examplePlan, spec, roots, close },
                  change: (next) => wish.change(at, next),
                  changeFormat: (format) => wish.changeFormat(at, format),
                })}
              {control === 'format' && batch.outputs.length > 1 && (
                <Button
                  size="small"
                  onClick={() => {
                    close();
                    wish.remove(at);
                  }}
                >
                  Do not write this output
                </Button>
              )}
            </Box>
          );
        }}
        onPress={(control, at) => {
          say('output', at === 0 ? null : String(at));
          if (control !== 'picture') return false;
          setSide('picture');
          return true;
        }}
      />
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 1fr)', gap: 2, minHeight: 0 }}>
        <SourceList
          {...{ ids, bySource, needs, tried, shown }}
          chosen={chosen.id}
          onShown={(next: Shown) => say('show', next === 'all' ? null : next)}
          onChoose={(id) => say('source', id)}
          onMend={planned.mend}
        />
        <ChosenSide
          key={chosen.id}
          source={chosen}
          parts={bySource.get(chosen.id) ?? []}
          {...{ wish, output, side, selection }}
          onOutput={(next) => say('output', next === 0 ? null : String(next))}
          onSide={setSide}
        />
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) auto', gap: 3, alignItems: 'center' }}>
        <Box sx={{ minWidth: 0 }}>
          {planned.runError || planned.error ? (
            <ProblemNote problem={(planned.runError ?? planned.error)!} />
          ) : (
            <Sums planned={planned} />
          )}
        </Box>
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
          <Segments
            label="What is made"
            value={makes}
            options={[
              ['all', 'Make all'],
              ['new', 'Only new or changed'],
            ]}
            onChoose={wish.makeOnly}
          />
          <Button size="large" onClick={() => setKeeping(true)} title="Convert new sources automatically">
            Keep doing this
          </Button>
          <Button
            variant="contained"
            size="large"
            aria-keyshortcuts="Control+Enter"
            disabled={!planned.mayRun}
            onClick={() => void planned.run()}
          >
            {runWords(plan, spoken)}
          </Button>
        </Box>
      </Box>
      {inRow && <OneAfterAnother ids={ids} spec={batch.outputs[output]!} onClose={() => setInRow(false)} />}
      {isKeeping && (
        <OrderForm
          begun={orderFor(sources, batch.outputs)}
          onSet={({ id }) => void navigate(`/jobs/standing/${id}`)}
          onClose={() => setKeeping(false)}
        />
      )}
    </Box>
  );
}

/** What of a standing order is known once it was said of some sources: the folder above all of them, their kind. */
function orderFor(sources: readonly ListedSource[], outputs: readonly Spec[]): Begun {
  const [first] = sources;
  const steps = sources.filter(({ root }) => root === first!.root).map(({ folder }) => folder.split('/'));
  const shared = steps[0]!.findIndex((step, at) => steps.some((one) => one[at] !== step));
  const kinds = [...new Set(sources.map(({ kind }) => kind))].filter((kind) => kind !== 'sound');
  const folder = (shared < 0 ? steps[0]! : steps[0]!.slice(0, shared)).join('/');
  return {
    name: `From ${folder === '' ? first!.root : folder}`.slice(0, 80),
    root: first!.root,
    folder,
    fits: { ...anyFits, kinds: kinds.length === 3 ? [] : kinds },
    outputs,
  };
}

function runWords(plan: BatchPlan | undefined, spoken: SpokenSources): string {
  const { ready = 0, files = 0, videos = 0 } = plan?.sums ?? {};
  if (ready > 0 && files + videos === 0) return 'Nothing is new';
  return ready < spoken.count ? `Run ${printCount(ready)} of ${sourcesSaid(spoken)}` : `Run ${sourcesSaid(spoken)}`;
}

/** What all of it comes to, and what waits. */
function Sums({ planned }: { planned: ReturnType<typeof useManyPlanned> }) {
  const { plan, estimate } = planned;
  if (!plan) return <Typography sx={{ color: 'text.secondary' }}>Working out the plan</Typography>;
  const { sums, parts, gone, rooms } = plan;
  const kept = parts.reduce((sum, part) => sum + part.kept, 0);
  const left = parts.filter(({ leftOver }) => leftOver !== '');
  const free = rooms.reduce<number | null>(
    (least, room) => (room.free === null ? least : Math.min(least ?? Infinity, room.free)),
    null,
  );
  const count = [
    ...(sums.files > 0 ? [plural(sums.files, 'file')] : []),
    ...(sums.videos > 0 ? [plural(sums.videos, 'video')] : []),
  ].join(' and ');
  const room =
    estimate === undefined
      ? ''
      : `, about ${printBytes(Math.round(estimate.bytes))}${free === null ? '' : ` of ${printBytes(free)} free`}`;
  const time = estimate === undefined ? '' : `, ${printLeft(estimate.seconds)} on this machine`;
  const isTight = estimate !== undefined && free !== null && estimate.bytes > free;
  const waiting = sums.sources - sums.ready;
  const notes = [
    ...(waiting > 0 ? [`${plural(waiting, 'source')} ${waiting === 1 ? 'waits' : 'wait'} for a word`] : []),
    ...(kept > 0
      ? [`${plural(kept, 'file')} ${kept === 1 ? 'stays' : 'stay'} as ${kept === 1 ? 'it is' : 'they are'}`]
      : []),
    ...(left.length > 0
      ? [
          `results whose source is gone are kept: ${someOf(left.map(({ into, leftOver }) => `${into.folder} ${leftOver}`))}`,
        ]
      : []),
    ...(gone.length > 0
      ? [`${plural(gone.length, 'source')} ${gone.length === 1 ? 'is' : 'are'} no longer there`]
      : []),
  ];
  return (
    <Box data-testid="sums">
      <Typography noWrap>
        <b>{count || (sums.ready > 0 ? 'Everything exists already' : 'Nothing can run yet')}</b>
        <Box component="span" sx={{ color: isTight ? 'error.main' : undefined }}>
          {room}
        </Box>
        {time}
        {planned.measuring ? ', measuring' : ''}
      </Typography>
      <Typography noWrap title={notes.join('; ')} sx={{ fontSize: 13, color: 'text.secondary' }}>
        {notes.join('; ') || 'Every source can run.'}
      </Typography>
    </Box>
  );
}
