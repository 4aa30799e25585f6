import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { coverageCount, folderApart, hasFrames, type Problem, type Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useSomeSourcesQuery } from '../../../api/api.ts';
import { Loading, ProblemNote } from '../../../pieces/Notes.tsx';
import { SortableList } from '../../../pieces/SortableList.tsx';
import { plural } from '../../../pieces/words.ts';
import { keepSpec } from '../../../state/keptSpec.ts';

/** Sources that are put one after another at the most: more of them are an edit list. */
export const mostInRow = 200;

/** Marked sources as one: in an order by hand, the first too. What was said of the output holds for all of it. */
export function OneAfterAnother({ ids, spec, onClose }: { ids: readonly string[]; spec: Spec; onClose: () => void }) {
  const { data, error } = useSomeSourcesQuery(useMemo(() => ids.slice(0, mostInRow), [ids]));
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="in-a-row">
      <DialogTitle id="in-a-row">One after another</DialogTitle>
      {data ? (
        <InOrder sources={data.filter(hasFrames)} spec={spec} onClose={onClose} />
      ) : (
        <DialogContent>
          {error ? <ProblemNote problem={error as Problem} /> : <Loading what="Reading the sources" />}
        </DialogContent>
      )}
    </Dialog>
  );
}

function InOrder({ sources, spec, onClose }: { sources: ListedSource[]; spec: Spec; onClose: () => void }) {
  const navigate = useNavigate();
  const [order, setOrder] = useState(sources);
  const [first, ...rest] = order;
  const open = () => {
    if (!first) return;
    const then = rest.map(({ root, folder, name }) => ({ source: { root, folder, name }, frames: 'all' }));
    // They become one: what kept them apart has no meaning any more.
    const isApart = spec.into.folder !== null && spec.into.folder === folderApart(sources);
    keepSpec(first.id, { ...spec, frames: 'all', then, into: { ...spec.into, ...(isApart ? { folder: null } : {}) } });
    void navigate(`/convert/${first.id}`);
  };
  const frames = order.reduce((sum, { coverage }) => sum + coverageCount(coverage), 0);
  return (
    <>
      <DialogContent sx={{ pb: 1 }}>
        <Typography sx={{ fontSize: 14, color: 'text.secondary', mb: 1 }}>
          {plural(order.length, 'source')} become one, {plural(frames, 'frame')} long. Drag to reorder, or use the
          keyboard: space, arrows, space.
        </Typography>
        <SortableList
          label="Sources in their order"
          items={order}
          idOf={({ id }) => id}
          wordsOf={({ folder, name }) => `${folder}/${name}`}
          onOrder={setOrder}
        >
          {({ folder, name, coverage }, at) => (
            <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', minHeight: 30 }}>
              <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary', width: 26 }}>
                {at + 1}
              </Typography>
              <Typography noWrap className="mono" sx={{ fontSize: 13, flex: 1 }}>
                {folder ? `${folder}/` : ''}
                {name}
              </Typography>
              <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
                {coverageCount(coverage)}
              </Typography>
            </Box>
          )}
        </SortableList>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={order.length < 2} onClick={open}>
          Join them
        </Button>
      </DialogActions>
    </>
  );
}
