import { useNavigate } from 'react-router';
import { breachesOf, conformNaming, heldSource, namingMend } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useRootsQuery } from '../../api/api.ts';
import { ReceiverCard, useReceiver } from '../../names/ReceiverCard.tsx';
import { emptySpec, namingBegun } from '../../state/naming.ts';
import { useAppDispatch } from '../../state/store.ts';

/** The source as it lies there, held against the receiver; what new names mend opens Rename with the rule in place. */
export function HeldCard({ source }: { source: ListedSource }) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const receiver = useReceiver({ source: source.id });
  const { data: roots } = useRootsQuery();
  const root = roots?.find(({ id }) => id === source.root);
  const breaches =
    receiver &&
    root &&
    breachesOf(heldSource(source, source.declaration, root.path), receiver.receiver).map((breach) => ({
      ...breach,
      mend: namingMend(breach, receiver.receiver),
    }));
  return (
    <ReceiverCard
      meant={{ source: source.id }}
      breaches={breaches}
      elsewhere="Not about names."
      onMend={(some) => {
        if (!receiver) return;
        dispatch(
          namingBegun({
            sources: [source.id],
            spec: conformNaming(emptySpec, receiver.receiver, some),
            receiver: receiver.id,
          }),
        );
        void navigate('/rename');
      }}
    />
  );
}
