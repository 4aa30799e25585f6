import CloseIcon from '@mui/icons-material/Close';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import InputBase from '@mui/material/InputBase';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useTheme } from '@mui/material/styles';
import { useEffect, useState } from 'react';
import { findingWords, isFindingCode, parseRate, printRate } from '@shale/core';
import type { Overview, SourceFilter } from '@shale/contract';
import type { ListWanted } from '../../api/api.ts';
import { Chip } from '../../pieces/Chip.tsx';
import { printCount } from '../../pieces/words.ts';
import { ages, chipsOf, isInForce, sorts, wide } from './filters.ts';

interface Props {
  wanted: ListWanted;
  overview: Overview;
  onChange: (wanted: ListWanted) => void;
}

const any = '';

/** An address may ask for a finding that this version does not know. */
const codeWords = (code: string): string => (isFindingCode(code) ? findingWords[code] : code);

/** What the list is narrowed to and sorted by: chips for the common, three choices and a text for the rest. */
export function Narrowing({ wanted, overview, onChange }: Props) {
  const { tokens } = useTheme();
  const { filter } = wanted;
  const set = (change: SourceFilter) => onChange({ ...wanted, filter: { ...filter, ...change } });
  const { facets } = overview;
  const sortIndex = sorts.findIndex(([sort, descending]) => sort === wanted.sort && descending === wanted.descending);

  const choice = (label: string, value: string, options: [string, string][], choose: (value: string) => void) => (
    <Select
      size="small"
      variant="standard"
      disableUnderline
      displayEmpty
      value={value}
      onChange={({ target }) => choose(target.value)}
      inputProps={{ 'aria-label': label }}
      renderValue={(said) => options.find(([option]) => option === said)?.[1] ?? label}
      sx={{
        fontSize: 13.5,
        color: value === any ? 'text.secondary' : tokens.act,
        fontWeight: value === any ? 400 : 600,
        '& .MuiSelect-select': { py: '3px' },
      }}
    >
      {options.map(([option, words]) => (
        <MenuItem key={option} value={option} sx={{ fontSize: 14 }}>
          {words}
        </MenuItem>
      ))}
    </Select>
  );
  const codes = Object.entries(facets.codes).sort(([, a], [, b]) => b - a);
  const rates = Object.entries(facets.rates).sort(([a], [b]) => parseFloat(a) - parseFloat(b));
  return (
    <Box sx={{ mb: 1.5, display: 'grid', rowGap: 1 }}>
      <Box role="group" aria-label="Filters" sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        {chipsOf(overview, filter).map((chip) => {
          const on = isInForce(chip, filter);
          return (
            <Chip
              key={chip.words}
              on={on}
              onClick={() =>
                set({
                  look: undefined,
                  kind: undefined,
                  rate: filter.rate === 'none' ? undefined : filter.rate,
                  ...chip.filter,
                })
              }
            >
              {chip.words} {printCount(chip.count)}
            </Chip>
          );
        })}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2.5, minHeight: 30 }}>
        <SearchField value={filter.text ?? ''} onChange={(text) => set({ text: text || undefined })} />
        {choice(
          'Any finding',
          filter.code ?? any,
          [
            [any, 'Any finding'],
            ...codes.map(([code, count]): [string, string] => [code, `${codeWords(code)} ${printCount(count)}`]),
            ...(filter.code && !facets.codes[filter.code]
              ? [[filter.code, codeWords(filter.code)] as [string, string]]
              : []),
          ],
          (code) => set({ code: code || undefined }),
        )}
        {choice(
          'Any rate',
          filter.rate && filter.rate !== 'none' ? filter.rate : any,
          [
            [any, 'Any rate'],
            ...rates.map(([rate, count]): [string, string] => [
              rate,
              `${printRate(parseRate(rate))}, ${printCount(count)}`,
            ]),
          ],
          (rate) => set({ rate: rate || undefined }),
        )}
        {choice(
          'Any age',
          filter.hours === undefined ? any : String(filter.hours),
          [[any, 'Any age'], ...ages.map(([hours, words]): [string, string] => [String(hours), `Changed ${words}`])],
          (hours) => set({ hours: hours ? Number(hours) : undefined }),
        )}
        {(filter.text ?? filter.code ?? filter.hours ?? (filter.rate !== 'none' ? filter.rate : undefined)) !==
          undefined && (
          <ButtonBase
            onClick={() => onChange({ ...wanted, filter: { ...wide(filter), look: filter.look, kind: filter.kind } })}
            sx={{ fontFamily: 'inherit', fontSize: 13.5, color: tokens.act, gap: 0.5 }}
          >
            <CloseIcon sx={{ fontSize: 15 }} />
            Clear filters
          </ButtonBase>
        )}
        <Box sx={{ ml: 'auto' }}>
          {choice(
            'Order',
            String(Math.max(0, sortIndex)),
            sorts.map(([, , words], index) => [String(index), words]),
            (index) => {
              const [sort, descending] = sorts[Number(index)]!;
              onChange({ ...wanted, sort, descending });
            },
          )}
        </Box>
      </Box>
    </Box>
  );
}

/** A text that narrows the list once the typing rests. */
function SearchField({ value, onChange }: { value: string; onChange: (text: string) => void }) {
  const [typed, setTyped] = useState(value);
  const [told, setTold] = useState(value);
  // The address changed by itself: what stands here follows.
  if (told !== value) {
    setTold(value);
    setTyped(value);
  }
  useEffect(() => {
    if (typed === value) return undefined;
    const timer = setTimeout(() => onChange(typed), 250);
    return () => clearTimeout(timer);
  });
  return (
    <InputBase
      value={typed}
      onChange={({ target }) => setTyped(target.value)}
      onKeyDown={(event) => event.key === 'Escape' && setTyped('')}
      placeholder="Name or folder"
      inputProps={{ 'aria-label': 'Name or folder', maxLength: 200 }}
      sx={{
        fontSize: 13.5,
        width: 190,
        px: 1.25,
        height: 30,
        border: 1,
        borderColor: 'divider',
        borderRadius: '5px',
        bgcolor: 'background.paper',
        '&.Mui-focused': { borderColor: 'primary.main' },
      }}
    />
  );
}
