import Autocomplete from '@mui/material/Autocomplete';
import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { ListedSource, SourceFilter } from '@shale/contract';
import { hasSound, isConvertible, type Beside } from '@shale/core';
import { useSourcePageQuery, useSourceQuery } from '../api/api.ts';
import { useAppSelector } from '../state/store.ts';
import { stepsBetween } from './near.ts';
import { useRested } from './useRested.ts';

interface Props {
  label: string;
  value: Beside | null;
  /** Which sources may be chosen; without it all that have pictures. */
  takes?: (source: ListedSource) => boolean;
  /** Only sources with sound, in place of those with pictures. */
  sounds?: boolean;
  onSay: (source: Beside, listed: ListedSource) => void;
}

const compare = (a: number, b: number): number => (a === b ? 0 : a < b ? -1 : 1);

const pathOf = ({ folder, name }: Pick<Beside, 'folder' | 'name'>) => (folder === '' ? name : `${folder}/${name}`);

/** Sources in and around the folder of another, the nearest first. */
function useNear(
  text: string,
  kind: SourceFilter,
): { near: ListedSource | undefined; around: readonly ListedSource[] } {
  const chosen = useAppSelector((state) => state.view.source);
  const { data: near } = useSourceQuery(chosen ?? '', { skip: !chosen });
  const above = near?.folder.split('/').slice(0, -1).join('/');
  const filter = { ...kind, root: near?.root, ...(above ? { folder: above } : {}), ...(text === '' ? {} : { text }) };
  const { currentData = [] } = useSourcePageQuery(
    { filter, sort: 'name', descending: false, page: 0 },
    { skip: !near },
  );
  return { near, around: currentData };
}

/** A source of any root, found by a part of its name or folder; those that lie nearest to the chosen source come first. */
export function SourcePicker({ label, value, takes, sounds = false, onSay }: Props) {
  const [text, setText] = useState('');
  const kind: SourceFilter = sounds ? { sounds } : {};
  const rested = useRested(text, 250);
  const { currentData = [], isFetching } = useSourcePageQuery({
    filter: { ...kind, ...(rested === '' ? {} : { text: rested }) },
    sort: 'name',
    descending: false,
    page: 0,
  });
  const { near, around } = useNear(rested, kind);
  const found = [...new Map([...around, ...currentData].map((one) => [one.id, one])).values()].filter(
    takes ?? (sounds ? hasSound : isConvertible),
  );
  // The order of those that are equally far stays.
  if (near) found.sort((a, b) => compare(stepsBetween(near, a), stepsBetween(near, b)));
  const options = found.slice(0, 100);
  return (
    <Autocomplete
      size="small"
      options={options.map(({ root, folder, name }): Beside => ({ root, folder, name }))}
      value={value}
      loading={isFetching}
      disableClearable={value !== null}
      filterOptions={(all) => all}
      getOptionKey={(one) => `${one.root}/${pathOf(one)}`}
      getOptionLabel={({ name }) => name}
      isOptionEqualToValue={(a, b) => a.root === b.root && pathOf(a) === pathOf(b)}
      onInputChange={(_, said, reason) => setText(reason === 'input' ? said : '')}
      onChange={(_, chosen) => {
        const listed = chosen && found.find((one) => one.root === chosen.root && pathOf(one) === pathOf(chosen));
        if (listed) onSay(chosen, listed);
      }}
      renderOption={({ key, ...props }, { root, folder, name }) => (
        <Box component="li" key={key} {...props} sx={{ display: 'block !important' }}>
          <span className="mono">{name}</span>
          <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            {root}/{folder}
          </Box>
        </Box>
      )}
      renderInput={(props) => <TextField {...props} label={label} placeholder="a part of its name" />}
    />
  );
}
