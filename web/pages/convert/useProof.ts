import { useState } from 'react';
import { resultsOf, sampleFrames, type Plan, type Problem, type Spec } from '@shale/core';
import type { ListedSource, Proof } from '@shale/contract';
import { api, useProveMutation } from '../../api/api.ts';
import { heldAgainst } from '../../stage/state.ts';
import { useAppDispatch } from '../../state/store.ts';

/** Frames that are tried by one press. */
export const tried = 3;

/** Under which key the stage holds a source against its proof. */
export const proofKey = (source: string): string => `proof of ${source}`;

/** Source frames of a plan, spread evenly, that a proof begins with. */
export function framesToTry(plan: Plan): number[] {
  const last = plan.frames - 1;
  if (last < 0) return [];
  const places = sampleFrames([{ first: 0, last, step: 1 }], tried);
  return [...new Set(places.map((place) => resultsOf(plan, place, place + 1)[0]!.sourceFrame))];
}

/** The proof of what is wanted: made, kept while the sentence stays as it was. */
export function useProof(source: ListedSource, spec: Spec) {
  const dispatch = useAppDispatch();
  const [prove, { isLoading, error }] = useProveMutation();
  const [made, setMade] = useState<{ proof: Proof; of: string } | null>(null);
  const of = JSON.stringify(spec);
  const make = async (frames: number[]): Promise<boolean> => {
    const answer = await prove({ source: source.id, spec, frames });
    if (!('data' in answer) || !answer.data) return false;
    const proof = answer.data;
    setMade({ proof, of });
    if (!proof.source) return true;
    // The same proof has more frames than before.
    await dispatch(api.util.upsertQueryData('source', proof.source.id, proof.source));
    const alignment = { by: 'plan' as const, runs: proof.runs, back: false };
    dispatch(heldAgainst({ key: proofKey(source.id), against: { id: proof.source.id, alignment, rate: null } }));
    return true;
  };
  return {
    proof: made?.proof ?? null,
    /** Whether the sentence has changed since it was made. */
    isOld: made !== null && made.of !== of,
    making: isLoading,
    problem: error as Problem | undefined,
    make,
  };
}
