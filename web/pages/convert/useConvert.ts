import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import {
  breachesOf,
  conformSpec,
  digestOfPlan,
  formatRules,
  heldPlan,
  ofLayer,
  specMend,
  stemOf,
  withFormat,
  type Breach,
  type Format,
  type Plan,
  type Problem,
  type Spec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useMeasureQuery, usePlanQuery, useRootsQuery, useStartJobMutation, useTargetQuery } from '../../api/api.ts';
import { useReceiver } from '../../names/ReceiverCard.tsx';
import { useRested } from '../../pieces/useRested.ts';
import { saidOf, specSaid } from '../../state/address.ts';
import { keepSpec, keptSpec } from '../../state/keptSpec.ts';
import { freeAfter } from './free.ts';
import { saidElsewhere, useSaidInAddress } from './useSaidInAddress.ts';

/** What is wanted of a source, as it is changed, kept by source. @param start what is wanted before anything is said */
export function useSpec(source: ListedSource, start: Spec) {
  const [params] = useSearchParams();
  const [spec, setSpec] = useState<Spec>(
    () => specSaid(start, saidElsewhere(source.id, params.get('say'))) ?? keptSpec(source.id) ?? start,
  );
  useSaidInAddress(source.id, saidOf(start, spec));
  // What is wanted of the pixels, whatever the format that is being tried can hold of it.
  const [free, setFree] = useState(() =>
    // A page that was loaded anew does not know what was wanted before: what the source has, then.
    formatRules[spec.write.format].alpha ? spec.write : { ...spec.write, alpha: start.write.alpha },
  );
  const change = (next: Spec, wanted = freeAfter(free, spec.write, next.write)) => {
    setFree(wanted);
    setSpec(next);
    keepSpec(source.id, next);
  };
  const changeFormat = (format: Format) => change(withFormat(spec, format, free), free);
  return { spec, change, changeFormat };
}

/** The plan of what is wanted, what is known of it before it runs, and the run. */
/** @param measures whether some results are made to tell of bytes, seconds and losses */
export function usePlanned(source: ListedSource, spec: Spec, { measures = true }: { measures?: boolean } = {}) {
  const navigate = useNavigate();
  const asked = { source: source.id, spec };
  const { currentData: fresh, data: plan = fresh, error, isFetching: comes } = usePlanQuery(asked);
  const rested = useRested(spec, 500);
  const works = plan !== undefined && plan.problems.length === 0;
  const { currentData: target, isLoading: looks } = useTargetQuery(
    { source: source.id, spec: rested },
    { skip: !works },
  );
  // All frames are measured for the spec that it was asked for, and for no other.
  const [allOf, setAllOf] = useState<Spec | null>(null);
  const frames = allOf === spec ? 'all' : 'sample';
  // Of what is wanted now: what was wanted before the last change may not run, and what was measured of it says nothing.
  const settled = rested === spec && fresh?.problems.length === 0;
  const measure = useMeasureQuery({ source: source.id, spec: rested, frames }, { skip: !settled || !measures });
  const measured = settled ? measure.currentData : undefined;
  const [start, { error: refused, isLoading: starting, originalArgs }] = useStartJobMutation();
  // What a run met holds for the spec that it was asked with.
  const [splits, setSplits] = useState<Spec | null>(null);
  const runError =
    (originalArgs && wishOf(originalArgs.spec) === wishOf(spec)) || splits === spec
      ? (refused as Problem | undefined)
      : undefined;
  /** @param other what is run instead, where that has the same names: a try of it that was chosen */
  const run = async (other?: Spec) => {
    // What was thought of it goes along: the receipt holds it against what came.
    const estimate = measured && { bytes: measured.bytes, seconds: measured.seconds };
    // The plan that is shown is run, and no other that it became meanwhile.
    const wanted = other ? { ...asked, spec: other } : { ...asked, digest: digestOfPlan(fresh!) };
    const job = await start({ ...wanted, ...(estimate ? { estimate } : {}) });
    if ('data' in job) void navigate('/jobs');
  };
  // The main picture and every layer, each a job of its own; the first that is refused ends it.
  const layers = spec.channels.length > 0 ? [] : (source.facts?.layers ?? []);
  const runLayers = async () => {
    setSplits(spec);
    for (const layer of [null, ...layers])
      if ('error' in (await start({ source: source.id, spec: ofLayer(spec, layer) }))) return;
    void navigate('/jobs');
  };
  return {
    layers,
    runLayers,
    plan,
    error: error as Problem | undefined,
    rested,
    /** Whether what is wanted now has rested, and may run. */
    settled,
    target,
    /** Whether it is not known yet what is already at the target. */
    looks,
    measured,
    measuring: measure.isFetching,
    measureError: measure.error as Problem | undefined,
    measureAll: () => setAllOf(spec),
    run,
    runError,
    mayRun: works && !comes && fresh !== undefined && !(target?.problem && rested === spec) && !starting,
  };
}

/** What is wanted as one text, whichever try of it was chosen. */
export const wishOf = (spec: Spec): string => JSON.stringify({ ...spec, video: { ...spec.video, given: null } });

/** The receiver that is meant, and what of the plan it would not take; `breaches` is undefined where none is meant. */
export function useMeant(source: ListedSource, spec: Spec, plan: Plan | undefined) {
  const { data: roots = [] } = useRootsQuery();
  const receiver = useReceiver({ source: source.id })?.receiver;
  if (!receiver || !plan) return { receiver, breaches: undefined, conform: () => spec };
  const rootPath = roots.find(({ id }) => id === plan.into.root)?.path ?? '';
  const breaches = breachesOf(heldPlan(plan, rootPath), receiver).map((breach) => ({
    ...breach,
    mend: specMend(breach, receiver),
  }));
  const conform = (some: readonly Breach[]) =>
    conformSpec(spec, receiver, some, plan.into.kind === 'sequence' ? stemOf(plan.into.pattern) : plan.into.stem);
  return { receiver, breaches, conform };
}
