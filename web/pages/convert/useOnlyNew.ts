import { useNavigate } from 'react-router';
import { batchOf, type Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useKeepSelectionMutation } from '../../api/api.ts';
import { keepBatch } from '../../state/keptBatch.ts';

/** Opens a source with what is wanted of it so that only what is missing or changed is made. */
export function useOnlyNew(source: ListedSource, spec: Spec): () => Promise<void> {
  const navigate = useNavigate();
  const [keep] = useKeepSelectionMutation();
  return async () => {
    const kept = await keep([source.id]);
    if (!('data' in kept) || !kept.data) return;
    keepBatch(kept.data.id, { batch: batchOf(spec), makes: 'new' });
    void navigate(`/convert/many/${kept.data.id}`);
  };
}
