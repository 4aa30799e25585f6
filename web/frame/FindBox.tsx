import Autocomplete from '@mui/material/Autocomplete';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { isConvertible } from '@shale/core';
import { useSourcePageQuery } from '../api/api.ts';
import { useRested } from '../pieces/useRested.ts';
import { namingBegun } from '../state/naming.ts';
import { sourceChosen } from '../state/view.ts';
import { useAppDispatch } from '../state/store.ts';
import { pages } from './pages.tsx';

/** Something that can be gone to or done. */
interface Place {
  kind: 'Pages' | 'Actions' | 'Sources';
  words: string;
  /** Where it is, for those that share a name. */
  more?: string;
  path: string;
  source?: string;
  /** A source that Rename opens with. */
  renames?: string;
}

/** Pages by their names, and those that have none in the head. */
const places: readonly Place[] = [
  ...pages.flatMap(({ name, path }): Place[] => (name ? [{ kind: 'Pages', words: name, path }] : [])),
  { kind: 'Pages', words: 'History of renames', path: '/rename/history' },
  { kind: 'Pages', words: 'Standing orders', path: '/jobs/standing' },
  { kind: 'Pages', words: 'Server status', path: '/server' },
];

/** Finds sources, pages and actions by typing a part of their names. */
export function FindBox({ chosen, onClose }: { chosen: string | null; onClose: () => void }) {
  const [text, setText] = useState('');
  const rested = useRested(text, 150);
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const { currentData = [], isFetching } = useSourcePageQuery({
    filter: rested === '' ? {} : { text: rested },
    sort: 'name',
    descending: false,
    page: 0,
  });
  const wanted = text.trim().toLowerCase();
  const actions: Place[] = chosen
    ? [
        { kind: 'Actions', words: 'Inspect the chosen source', path: `/inspect/${chosen}` },
        { kind: 'Actions', words: 'Convert the chosen source', path: `/convert/${chosen}` },
        { kind: 'Actions', words: 'Rename the chosen source', path: '/rename', renames: chosen },
        { kind: 'Actions', words: 'Make a small moving picture', path: `/convert/small/${chosen}` },
      ]
    : [];
  const sources = currentData.slice(0, 30).map((source): Place => {
    const { id, name, folder, root } = source;
    return {
      kind: 'Sources',
      words: name,
      more: folder ? `${root}/${folder}` : root,
      path: isConvertible(source) ? `/inspect/${id}` : `/intake?root=${root}`,
      source: id,
    };
  });
  const options = [...actions, ...places].filter(({ words }) => words.toLowerCase().includes(wanted)).concat(sources);
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="sm"
      slotProps={{ paper: { 'aria-label': 'Find' } }}
      sx={{ '& .MuiDialog-container': { alignItems: 'flex-start' } }}
    >
      <Autocomplete
        open
        autoHighlight
        options={options}
        loading={isFetching}
        filterOptions={(all) => all}
        getOptionKey={({ kind, path, words, more }) => `${kind} ${path} ${words} ${more ?? ''}`}
        getOptionLabel={({ words }) => words}
        noOptionsText="Nothing has this in its name"
        onInputChange={(_, said, reason) => reason === 'input' && setText(said)}
        onClose={(_, reason) => reason === 'escape' && onClose()}
        onChange={(_, place) => {
          if (!place) return;
          if (place.source) dispatch(sourceChosen(place.source));
          if (place.renames) dispatch(namingBegun({ sources: [place.renames] }));
          onClose();
          void navigate(place.path);
        }}
        renderOption={({ key, ...props }, { words, more, kind }) => (
          <Box component="li" key={key} {...props} sx={{ justifyContent: 'space-between !important', gap: 2 }}>
            <span className={kind === 'Sources' ? 'mono' : undefined}>{words}</span>
            <Box component="span" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
              {more ?? (kind === 'Pages' ? 'page' : 'action')}
            </Box>
          </Box>
        )}
        renderInput={(props) => (
          <Box sx={{ p: 1.5 }}>
            <TextField {...props} autoFocus fullWidth label="Source, page or action" />
          </Box>
        )}
        slotProps={{
          popper: {
            disablePortal: true,
            sx: { position: 'static !important', transform: 'none !important', width: 'auto !important' },
          },
        }}
      />
    </Dialog>
  );
}
