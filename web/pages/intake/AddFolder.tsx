import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { Virtuoso } from 'react-virtuoso';
import type { Problem } from '@shale/core';
import type { Root } from '@shale/contract';
import { useAddRootMutation, useBrowseQuery } from '../../api/api.ts';
import { Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { printCount } from '../../pieces/words.ts';
import { useRested } from '../../pieces/useRested.ts';

const rowHeight = 32;

/** A folder of the machine as a root: typed, or chosen step by step. */
export function AddFolder({ onAdded, onClose }: { onAdded: (root: Root) => void; onClose: () => void }) {
  const [path, setPath] = useState('');
  const [name, setName] = useState('');
  const [writable, setWritable] = useState(false);
  const rested = useRested(path, 300);
  const { currentData: browsed, error: notRead, isFetching } = useBrowseQuery(rested);
  const [add, { error: refused, isLoading }] = useAddRootMutation();
  const isNamed = path.trim() !== '';
  const submit = async () => {
    const added = await add({ path, writable, ...(name.trim() === '' ? {} : { name }) });
    if ('data' in added && added.data) onAdded(added.data);
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="add-folder">
      <DialogTitle id="add-folder">Add a folder</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
        <TextField
          autoFocus
          fullWidth
          label="Folder"
          placeholder="/mnt/shows"
          value={path}
          onChange={({ target }) => setPath(target.value)}
          slotProps={{ htmlInput: { className: 'mono', spellCheck: false } }}
          sx={{ mt: 1 }}
        />
        <Box
          role="group"
          aria-label="Folders here"
          sx={{
            border: 1,
            borderColor: 'divider',
            borderRadius: '5px',
            height: 232,
            overflow: 'hidden',
            display: 'grid',
          }}
        >
          {browsed ? (
            <Virtuoso
              totalCount={browsed.folders.length + (browsed.above === null ? 0 : 1)}
              fixedItemHeight={rowHeight}
              itemContent={(index) => {
                const isAbove = browsed.above !== null && index === 0;
                const one = browsed.folders[index - (browsed.above === null ? 0 : 1)];
                return (
                  <ButtonBase
                    onClick={() => setPath(isAbove ? browsed.above! : one!.path)}
                    className="mono"
                    sx={{
                      width: '100%',
                      height: rowHeight,
                      px: 1.5,
                      justifyContent: 'flex-start',
                      fontSize: 13,
                      '&:hover': { bgcolor: 'action.hover' },
                    }}
                  >
                    {isAbove ? 'The folder above' : one!.name}
                  </ButtonBase>
                );
              }}
            />
          ) : notRead && !isFetching ? (
            <Box sx={{ p: 1.5, overflowY: 'auto' }}>
              <ProblemNote
                problem={notRead as Problem}
                action={<Button onClick={() => setPath('')}>Show places</Button>}
              />
            </Box>
          ) : (
            <Loading what="Reading the folder" />
          )}
        </Box>
        {browsed && browsed.more > 0 && (
          <Typography sx={{ fontSize: 13 }}>and {printCount(browsed.more)} more: type to narrow down.</Typography>
        )}
        <TextField
          fullWidth
          label="Name"
          placeholder={path.split('/').pop()}
          value={name}
          onChange={({ target }) => setName(target.value)}
        />
        <FormControlLabel
          control={<Checkbox size="small" checked={writable} onChange={(_, on) => setWritable(on)} />}
          label="Allow writing results into it"
        />
        {refused && <ProblemNote problem={refused as Problem} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={!isNamed || isLoading} onClick={() => void submit()}>
          Add this folder
        </Button>
      </DialogActions>
    </Dialog>
  );
}
