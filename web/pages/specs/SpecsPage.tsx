import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import MuiLink from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { Problem } from '@shale/core';
import {
  api,
  useAddReceiversMutation,
  useAddSpecsMutation,
  useAddStacksMutation,
  useReceiversQuery,
  useSpecsQuery,
  useStacksQuery,
} from '../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { plural } from '../../pieces/words.ts';
import { Detail } from './Detail.tsx';
import { readHanded, type HandedFile } from './files.ts';
import { itemsOf, type Item, type Kind } from './shelves.ts';
import { useAppDispatch } from '../../state/store.ts';

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
  const [came, setCame] = useState<Came>();
  const taking = useTaking();
  const file = useRef<HTMLInputElement>(null);
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!receivers) return <Loading what="Reading the lists" />;
  const items = itemsOf(receivers, specs, stacks);
  // An address of something that is not kept any more shows nothing else in its place.
  const shown = id === undefined ? items[0] : items.find((item) => item.kind === kind && item.id === id);
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    const read = await readHanded(chosen);
    if (!('shale' in read)) return setProblem(read);
    setProblem(undefined);
    const to = await taking(read);
    if ('code' in to) return setProblem(to);
    setCame(to);
    void navigate(`/specs/${to.kind}/${to.items[0]!.id}`);
  };
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '260px minmax(0, 1fr)' },
        height: { xs: 'auto', md: '100%' },
      }}
    >
      <Box
        component="nav"
        aria-label="Lists"
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
        {came && <CameNote came={came} onClose={() => setCame(undefined)} />}
        {shown ? (
          <Detail key={`${shown.kind}/${shown.id}`} item={shown} items={items} />
        ) : (
          <EmptyPage title="It no longer exists">Choose another on the left, or import it again.</EmptyPage>
        )}
      </Box>
    </Box>
  );
}

/** What a file brought: each by the name that it has now, and that of the file. */
interface Came {
  kind: Kind;
  items: { id: string; name: string; was: string }[];
}

const namesIn = (file: HandedFile): string[] =>
  (file.shale === 'receivers' ? file.receivers : file.shale === 'specs' ? file.specs : file.names).map(
    ({ name }) => name,
  );

const one: Record<Kind, string> = { receivers: 'receiver', specs: 'spec', names: 'set of naming rules' };
const many: Record<Kind, string> = { receivers: 'receivers', specs: 'specs', names: 'sets of naming rules' };

/** Tells what came, and under which names. */
function CameNote({ came: { kind, items }, onClose }: { came: Came; onClose: () => void }) {
  return (
    <Box
      role="status"
      sx={{
        mb: 2,
        p: '10px 14px',
        border: 1,
        borderColor: 'divider',
        borderRadius: '6px',
        bgcolor: 'background.paper',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Typography sx={{ fontWeight: 600 }}>{plural(items.length, one[kind], many[kind])} came</Typography>
        <Button size="small" onClick={onClose} sx={{ ml: 'auto' }}>
          Close
        </Button>
      </Box>
      <Box component="ul" sx={{ m: 0, pl: 2.5, fontSize: 14 }}>
        {items.map(({ id, name, was }) => (
          <li key={id}>
            <MuiLink component={Link} to={`/specs/${kind}/${id}`}>
              {name}
            </MuiLink>
            {name === was ? '' : `: "${was}" was in use`}
          </li>
        ))}
      </Box>
    </Box>
  );
}

function Shelf({ kind, items, shown }: { kind: Kind; items: Item[]; shown: Item | undefined }) {
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

/** Takes what a file holds in; the server gives each a name that is free. The list holds it when this returns. */
function useTaking() {
  const dispatch = useAppDispatch();
  const [addReceivers] = useAddReceiversMutation();
  const [addSpecs] = useAddSpecsMutation();
  const [addStacks] = useAddStacksMutation();
  return async (file: HandedFile): Promise<Came | Problem> => {
    const add = { receivers: addReceivers, specs: addSpecs, names: addStacks }[file.shale];
    const { receivers, specs, stacks } = api.endpoints;
    const fresh = { forceRefetch: true };
    const list = {
      receivers: () => dispatch(receivers.initiate(undefined, fresh)),
      specs: () => dispatch(specs.initiate(undefined, fresh)),
      names: () => dispatch(stacks.initiate(undefined, fresh)),
    }[file.shale];
    const { data, error } = await add(file);
    if (!data) return error as Problem;
    const asked = list();
    await asked;
    asked.unsubscribe();
    const names = namesIn(file);
    return {
      kind: file.shale,
      items: data.map((one, at) => ({
        id: String(one.id),
        name: 'receiver' in one ? one.receiver.name : one.name,
        was: names[at] ?? '',
      })),
    };
  };
}
