import type { Problem, Spec } from '@shale/core';
import { useSaveSpecMutation, useSpecsQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { Shelf } from '../../pieces/Shelf.tsx';

/** Specs kept under a name, to be taken again. */
export function SpecShelf({ spec, onTake }: { spec: Spec; onTake: (spec: Spec) => void }) {
  const { data: specs = [] } = useSpecsQuery();
  const [save, { error }] = useSaveSpecMutation();
  return (
    <Card title="Saved specs" sx={{ flex: 'none' }}>
      <Shelf
        kept={specs}
        onTake={(id) => onTake(specs.find((one) => one.id === id)!.spec)}
        onSave={async (name) => 'data' in (await save({ name, spec }))}
        problem={error as Problem | undefined}
      />
    </Card>
  );
}
