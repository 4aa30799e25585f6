import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { Problem } from '@shale/core';
import {
  useAddReceiversMutation,
  useReceiversQuery,
  useSaveSpecMutation,
  useSaveStackMutation,
  useSpecsQuery,
  useStacksQuery,
} from '../../api/api.ts';
import { Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { Detail } from './Detail.tsx';
import { readHanded, type HandedFile } from './files.ts';
import { freeName, itemsOf, type Item, type Kind } from './shelves.ts';

const titles: Record<Kind, string> = { receivers: 'Receivers', specs: 'Specs', names: 'Naming rules' };
const nothing: Record<Kind, string> = {
  receivers: '',
  specs: 'None yet: Convert saves one.',
  names: 'None yet: Rename saves one.',
};

/** What is kept: the rules of the tools that read next, specs, and naming rules. */
export function SpecsPage() {
  const { kind, id } = useParams() as { kind?: Kind; id?: string };
  const { data: receivers, error } = useReceiversQuery();
  const { data: specs = [] } = useSpecsQuery();
  const { data: stacks = [] } = useStacksQuery();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<Problem>();
  const taking = useTaking();
  const file = useRef<HTMLInputElement>(null);
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!receivers) return <Loading what="Reading what is kept" />;
  const items = itemsOf(receivers, specs, stacks);
  const shown = items.find((item) => item.kind === kind && item.id === id) ?? items[0]!;
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    const read = await readHanded(chosen);
    if (!('shale' in read)) return setProblem(read);
    setProblem(undefined);
    const to = await taking(read, items);
    if ('code' in to) setProblem(to);
    else void navigate(`/specs/${to.kind}/${to.id}`);
  };
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '260px minmax(0, 1fr)', height: '100%' }}>
      <Box
        component="nav"
        aria-label="What is kept"
        sx={{ p: '20px 12px 20px 24px', borderRight: 1, borderColor: 'divider', overflowY: 'auto' }}
      >
        {(Object.keys(titles) as Kind[]).map((one) => (
          <Shelf key={one} kind={one} items={items.filter((item) => item.kind === one)} shown={shown} />
        ))}
        <Button variant="outlined" size="small" onClick={() => file.current?.click()} sx={{ mt: 1 }}>
          Import
        </Button>
        <input
          ref={file}
          hidden
          type="file"
          accept="application/json,.json"
          aria-label="File of receivers, specs or naming rules"
          onChange={({ target }) => {
            void take(target.files?.[0]);
            target.value = '';
          }}
        />
      </Box>
      <Box sx={{ overflowY: 'auto', p: '20px 24px', minWidth: 0 }}>
        {problem && (
          <Box sx={{ mb: 2 }}>
            <ProblemNote problem={problem} action={<Button onClick={() => setProblem(undefined)}>Close</Button>} />
          </Box>
        )}
        <Detail key={`${shown.kind}/${shown.id}`} item={shown} items={items} />
      </Box>
    </Box>
  );
}

function Shelf({ kind, items, shown }: { kind: Kind; items: Item[]; shown: Item }) {
  const { tokens } = useTheme();
  return (
    <Box sx={{ mb: 2.5 }}>
      <Typography variant="h2" sx={{ mb: 0.75 }}>
        {titles[kind]}
      </Typography>
      {items.length === 0 && <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>{nothing[kind]}</Typography>}
      {items.map((item) => {
        const on = item === shown;
        return (
          <ButtonBase
            key={item.id}
            component={Link}
            to={`/specs/${item.kind}/${item.id}`}
            aria-current={on || undefined}
            sx={{
              display: 'block',
              p: '5px 8px',
              borderRadius: '4px',
              textAlign: 'left',
              color: on ? tokens.act : 'text.primary',
              bgcolor: on ? tokens.actWash : 'transparent',
              '&:hover': { bgcolor: tokens.actWash },
            }}
          >
            <Typography noWrap sx={{ fontWeight: 600, fontSize: 14 }}>
              {item.name}
            </Typography>
            <Typography noWrap sx={{ fontSize: 12.5, color: 'text.secondary' }}>
              {item.note}
            </Typography>
          </ButtonBase>
        );
      })}
    </Box>
  );
}

/** Takes what a file holds in, each under a name that is free. */
function useTaking() {
  const [addReceivers] = useAddReceiversMutation();
  const [saveSpec] = useSaveSpecMutation();
  const [saveStack] = useSaveStackMutation();
  return async (file: HandedFile, items: readonly Item[]): Promise<{ kind: Kind; id: string } | Problem> => {
    if (file.shale === 'receivers') {
      const { data, error } = await addReceivers(file);
      return data ? { kind: 'receivers', id: data[0]!.id } : (error as Problem);
    }
    const saved: { id: number }[] = [];
    const keep = ({ data, error }: { data?: { id: number }; error?: unknown }): Problem | undefined => {
      if (!data) return error as Problem;
      saved.push(data);
      return undefined;
    };
    if (file.shale === 'specs') {
      for (const { name, spec } of file.specs) {
        const problem = keep(await saveSpec({ name: freeName(name, items, 'specs'), spec }));
        if (problem) return problem;
      }
    } else {
      for (const { name, spec } of file.names) {
        const problem = keep(await saveStack({ name: freeName(name, items, 'names'), spec }));
        if (problem) return problem;
      }
    }
    return { kind: file.shale, id: String(saved[0]!.id) };
  };
}
