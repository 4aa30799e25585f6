import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Problem } from '@shale/core';
import type { SearchView } from '@shale/contract';
import { useHandTryMutation } from '../../../api/searches.ts';
import { ProblemNote } from '../../../pieces/Notes.tsx';
import { State } from '../../../pieces/State.tsx';

/** Hands a try to the counter of the upload desk that a receiver goes by. */
export function useHandOver(view: SearchView | undefined, at: number | null, counter: string | undefined) {
  const [hand, { data, error, originalArgs, isLoading }] = useHandTryMutation();
  // What was said of another try, or by another counter, is nothing to this one.
  const isOf = originalArgs?.search === view?.id && originalArgs?.at === at && originalArgs?.counter === counter;
  return {
    hand: () => {
      if (view && at !== null && counter) void hand({ search: view.id, at, counter });
    },
    isHanding: isLoading,
    answer: isOf ? data : undefined,
    problem: isOf ? (error as Problem | undefined) : undefined,
  };
}

/** What the upload desk said. */
export function HandedWords({ answer, problem, hand }: ReturnType<typeof useHandOver>) {
  if (problem) return <ProblemNote problem={problem} action={<Button onClick={hand}>Send it again</Button>} />;
  if (!answer) return null;
  return (
    <Box role="status" data-testid="handed" sx={{ fontSize: 13.5 }}>
      <State severity={answer.taken ? 'note' : 'fault'}>
        {answer.taken ? 'The upload desk accepted it.' : `The upload desk refused it. ${answer.reasons.join(' ')}`}
      </State>
    </Box>
  );
}
