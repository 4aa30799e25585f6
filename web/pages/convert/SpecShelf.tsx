import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { ownOf, specRows, type Problem, type Spec } from '@shale/core';
import type { SavedSpec } from '@shale/contract';
import { useSaveSpecMutation, useSpecsQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { Shelf } from '../../pieces/Shelf.tsx';
import { State } from '../../pieces/State.tsx';
import { plural } from '../../pieces/words.ts';

const key = (source: string): string => `shale-taken-${source}`;

/** The saved spec that was taken of a source last in this window, as far as it is still kept. */
const takenOf = (source: string, specs: readonly SavedSpec[]): SavedSpec | undefined =>
  specs.find(({ id }) => String(id) === sessionStorage.getItem(key(source)));

/** Specs kept under a name, to be taken again; one that was taken and changed since says so. */
export function SpecShelf({ source, spec, onTake }: { source: string; spec: Spec; onTake: (spec: Spec) => void }) {
  const { data: specs = [] } = useSpecsQuery();
  const [save, { error }] = useSaveSpecMutation();
  const [, setTaken] = useState(0);
  const take = (one: SavedSpec) => {
    sessionStorage.setItem(key(source), String(one.id));
    setTaken(one.id);
    onTake(one.spec);
  };
  const keep = async (name: string) => {
    const kept = await save({ name, spec });
    if (!('data' in kept) || !kept.data) return false;
    sessionStorage.setItem(key(source), String(kept.data.id));
    return true;
  };
  const taken = takenOf(source, specs);
  return (
    <Card title="Saved specs" sx={{ flex: 'none' }}>
      {taken && <Taken {...{ taken, spec }} onBack={() => take(taken)} onSave={() => void keep(taken.name)} />}
      <Shelf
        kept={specs}
        onTake={(id) => take(specs.find((one) => one.id === id)!)}
        onSave={keep}
        problem={error as Problem | undefined}
      />
    </Card>
  );
}

/** Whether what is wanted is still what was taken, and what of it is another. */
function Taken({
  taken,
  spec,
  onBack,
  onSave,
}: {
  taken: SavedSpec;
  spec: Spec;
  onBack: () => void;
  onSave: () => void;
}) {
  const changed = Object.keys(ownOf(taken.spec, spec)).length;
  const before = new Map(specRows(taken.spec));
  const rows = specRows(spec).filter(([label, words]) => before.get(label) !== words);
  return (
    <Box sx={{ mb: 1.25, fontSize: 14 }} data-testid="taken-spec">
      <State severity={changed > 0 ? 'doubt' : 'note'}>
        {changed > 0
          ? `Changed since ${taken.name}, version ${taken.version}`
          : `${taken.name}, version ${taken.version}`}
      </State>
      {changed > 0 && (
        <>
          <Box component="ul" sx={{ m: '4px 0', pl: 2.5, fontSize: 13 }}>
            {rows.map(([label, words]) => (
              <li key={label}>
                {label}: {words}; before: {before.get(label) ?? 'nothing'}
              </li>
            ))}
            {rows.length === 0 && <li>{plural(changed, 'setting')}</li>}
          </Box>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button size="small" variant="outlined" onClick={onSave}>
              Save as version {taken.version + 1}
            </Button>
            <Button size="small" onClick={onBack}>
              Back to it
            </Button>
          </Box>
        </>
      )}
    </Box>
  );
}
