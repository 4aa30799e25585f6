import Button from '@mui/material/Button';
import { useNavigate } from 'react-router';
import { batchOf, printSentence, sentenceOfBatch, type Spec } from '@shale/core';
import { useAppDispatch } from '../../state/store.ts';
import { wishMeant } from '../../state/view.ts';

/** Goes to Intake for other sources, of which the same is wanted. */
export function DoForOthers({ outputs }: { outputs: readonly Spec[] | undefined }) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  return (
    <Button
      variant="text"
      disabled={!outputs}
      onClick={() => {
        const words = printSentence(sentenceOfBatch(batchOf(...outputs!), 'each source'));
        dispatch(wishMeant({ outputs: [...outputs!], words }));
        void navigate('/intake');
      }}
    >
      Do the same for others
    </Button>
  );
}
