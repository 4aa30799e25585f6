import { useMemo, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import {
  alsoWrite,
  batchOf,
  conformBatch,
  groupedBy,
  folderApart,
  specFor,
  spokenOf,
  withDifference,
  withFormat,
  withoutDifference,
  withoutOutput,
  withOutput,
  type Batch,
  type Format,
  type Problem,
  type Spec,
  type StartingPointName,
} from '@shale/core';
import type { ListedSource, Makes, PartEstimate, PlannedPart } from '@shale/contract';
import {
  useDeclareManyMutation,
  useMeasureBatchQuery,
  usePlanBatchQuery,
  useStartBatchMutation,
} from '../../../api/api.ts';
import { useReceiver } from '../../../names/ReceiverCard.tsx';
import { useRested } from '../../../pieces/useRested.ts';
import { wishSaid, wishSaidOf } from '../../../state/address.ts';
import { keepBatch, keptBatch, type Wish } from '../../../state/keptBatch.ts';
import { freeAfter } from '../free.ts';
import { saidElsewhere, useSaidInAddress } from '../useSaidInAddress.ts';
import type { Mend } from './needs.ts';

/** What is wanted of many before anything is said: what is wanted of the first, in a folder for each where names would meet. */
export function startOfMany(start: Spec, sources: readonly ListedSource[]): Batch {
  return batchOf({ ...start, into: { ...start.into, folder: folderApart(sources) } });
}

/** What is wanted of many sources, as it is changed, kept by their list. */
export function useWish(selection: string, begin: () => Batch) {
  const [params] = useSearchParams();
  const [start] = useState(begin);
  const [wish, setWish] = useState<Wish>(
    () =>
      wishSaid(start, saidElsewhere(selection, params.get('say'))) ??
      keptBatch(selection) ?? { batch: start, makes: 'all' },
  );
  useSaidInAddress(selection, wishSaidOf(start, wish));
  /** What is wanted of the pixels of each output, whatever the format that is being tried can hold of it. */
  const [free, setFree] = useState<Spec['write'][]>(() => wish.batch.outputs.map(({ write }) => write));
  const put = (next: Wish) => {
    setWish(next);
    keepBatch(selection, next);
  };
  const { batch, makes } = wish;
  const set = (next: Batch) => put({ batch: next, makes });
  const freeOf = (output: number) => free[output] ?? batch.outputs[output]!.write;
  const change = (
    output: number,
    spec: Spec,
    wanted = freeAfter(freeOf(output), batch.outputs[output]!.write, spec.write),
  ) => {
    setFree(batch.outputs.map((_, at) => (at === output ? wanted : freeOf(at))));
    set(withOutput(batch, output, spec));
  };
  return {
    batch,
    makes,
    set,
    makeOnly: (next: Makes) => put({ batch, makes: next }),
    change,
    changeFormat: (output: number, format: Format) =>
      change(output, withFormat(batch.outputs[output]!, format, freeOf(output)), freeOf(output)),
    /** One source wants something else than the rest. */
    differ: (source: string, output: number, spec: Spec) => set(withDifference(batch, source, output, spec)),
    differFormat: (source: string, output: number, format: Format) =>
      set(withDifference(batch, source, output, withFormat(specFor(batch, source, output), format, freeOf(output)))),
    setBack: (sources: string[]) => set(withoutDifference(batch, sources)),
    also: (name: StartingPointName) =>
      set({ ...batch, outputs: [...batch.outputs, alsoWrite(name, batch.outputs[0]!, batch.outputs)] }),
    remove: (output: number) => {
      setFree(free.filter((_, at) => at !== output));
      set(withoutOutput(batch, output));
    },
  };
}

/** The plan of many, what they come to, the run, and mends by one press. */
export function useManyPlanned(
  selection: string,
  { batch, makes, set, makeOnly }: ReturnType<typeof useWish>,
  /** The first of them, and how many there are. */
  { sources, count }: { sources: readonly ListedSource[]; count: number },
) {
  const navigate = useNavigate();
  const rested = useRested(batch, 250);
  const receiver = useReceiver({ source: selection });
  const of = useMemo(() => ({ selection }), [selection]);
  const {
    currentData: fresh,
    data: plan = fresh,
    error,
    isFetching: comes,
  } = usePlanBatchQuery({ of, batch: rested, makes, ...(receiver ? { receiver: receiver.id } : {}) });
  const settled = rested === batch && fresh !== undefined;
  const measure = useMeasureBatchQuery({ of, batch: rested }, { skip: !settled || fresh.sums.ready === 0 });
  const estimates = settled ? measure.currentData?.parts : undefined;
  const [start, { error: refused, isLoading: starting, originalArgs }] = useStartBatchMutation();
  const [declareMany] = useDeclareManyMutation();
  const spoken = useMemo(() => plan?.spoken ?? { ...spokenOf(sources), count }, [plan, sources, count]);
  const run = async () => {
    const begun = await start({ of, batch, makes, digest: fresh!.digest });
    if ('data' in begun) void navigate('/jobs');
  };
  const mend = (one: Mend) => {
    if (one.kind === 'rate') void declareMany({ sources: one.sources, set: { rate: one.rate } });
    else if (one.kind === 'new') makeOnly('new');
    else if (one.kind === 'apart') {
      const apart = spoken.apart ?? '{folder}';
      set({
        ...batch,
        outputs: batch.outputs.map((spec) => ({ ...spec, into: { ...spec.into, folder: folderFor(spec, apart) } })),
      });
    } else if (one.kind === 'receiver') {
      if (receiver) set(conformBatch(batch, receiver.receiver, plan?.parts ?? []));
    } else {
      // Those that have gaps differ from the rest in what becomes of them.
      let next = batch;
      for (const source of one.sources)
        for (const output of batch.outputs.keys())
          next = withDifference(next, source, output, { ...specFor(next, source, output), missing: 'hold' });
      set(next);
    }
  };
  const bySource = useMemo(() => groupedBy(plan?.parts ?? [], ({ source }) => source), [plan]);
  const runError = originalArgs?.batch === batch ? (refused as Problem | undefined) : undefined;
  return {
    plan,
    bySource,
    /** All of its sources, told together; of the first few until the plan is there. */
    spoken,
    error: error as Problem | undefined,
    estimate: useMemo(() => estimateOf(estimates, plan?.parts ?? []), [estimates, plan]),
    measuring: measure.isFetching,
    comes: comes || !settled,
    run,
    runError,
    mend,
    mayRun: settled && !comes && fresh.sums.files + fresh.sums.videos > 0 && !starting,
  };
}

/** About what a run comes to: of what is made, not of what stays. */
function estimateOf(estimates: readonly PartEstimate[] | undefined, parts: readonly PlannedPart[]) {
  if (!estimates) return undefined;
  const made = new Map(
    parts.map(({ source, output, files, kept }) => [`${output} ${source}`, files > 0 ? (files - kept) / files : 0]),
  );
  const sum = { bytes: 0, seconds: 0 };
  for (const { source, output, bytes, seconds } of estimates) {
    const share = made.get(`${output} ${source}`) ?? 0;
    sum.bytes += bytes * share;
    sum.seconds += seconds * share;
  }
  return sum;
}

/** A folder that keeps sources apart: what it has of its own stays below. */
function folderFor({ into }: Spec, apart: string): string {
  const { folder } = into;
  if (folder === null || folder === '' || folder === '{stem}') return apart;
  return folder.includes(apart) ? folder : `${apart}/${folder}`;
}
