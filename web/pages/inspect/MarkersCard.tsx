import Close from '@mui/icons-material/Close';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Virtuoso } from 'react-virtuoso';
import { frameSpan, isVideo, markerFault, type Marker, type Problem } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import {
  useMarkersQuery,
  usePutMarkersMutation,
  useReadMarkersMutation,
  useScenesMutation,
  useStartingSpecQuery,
} from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { FileButton } from '../../pieces/FileButton.tsx';
import { colourOptions, Flag } from '../../pieces/markers.tsx';
import { ListProblems, ProblemNote } from '../../pieces/Notes.tsx';
import { Choice, Pair, Text, Whole } from '../../pieces/slimFields.tsx';
import { plural } from '../../pieces/words.ts';
import { useStageFrame } from '../../stage/useStageFrame.ts';
import { keepSpec } from '../../state/keptSpec.ts';

const rowHeight = 34;
const none: readonly Marker[] = [];

/** Places of a source that are marked: set, named, brought, handed out, made into stills. */
export function MarkersCard({ source, onGo }: { source: ListedSource; onGo: (frame: number) => void }) {
  const { tokens } = useTheme();
  const at = useStageFrame(source);
  const { data, error } = useMarkersQuery(source.id);
  const [put, { error: putError, isLoading: putting }] = usePutMarkersMutation();
  const [read, { error: readError }] = useReadMarkersMutation();
  const [findScenes, scenes] = useScenesMutation();
  const [problems, setProblems] = useState<Problem[]>([]);
  const [chosen, setChosen] = useState<number | null>(null);
  const markers = data?.markers ?? none;
  const version = data?.version ?? 0;
  const span = frameSpan(source.coverage);
  const save = (next: readonly Marker[]) => put({ id: source.id, version, markers: [...next] });
  const place = chosen !== null && chosen < markers.length ? chosen : null;
  const marked = place === null ? undefined : markers[place];
  const add = async () => {
    const marker: Marker = { frame: at, length: 1, name: '', note: '', colour: marked?.colour ?? 'verdigris' };
    const answer = await save([...markers, marker]);
    if ('data' in answer && answer.data) setChosen(answer.data.markers.findLastIndex(({ frame }) => frame === at));
  };
  const merge = (more: readonly Marker[]) => {
    const key = ({ frame, name }: Marker) => `${frame} ${name}`;
    const known = new Set(markers.map(key));
    return save([...markers, ...more.filter((one) => !known.has(key(one)))]);
  };
  const bring = async (name: string, text: string) => {
    const answer = await read({ id: source.id, name, text });
    if (!('data' in answer) || !answer.data) return setProblems([]);
    setProblems(answer.data.problems);
    if (answer.data.markers.length > 0) await merge(answer.data.markers);
  };
  const atScenes = async () => {
    const answer = await findScenes({ source: source.id });
    if (!('data' in answer) || !answer.data) return;
    const length = String(answer.data.frames.length).length;
    await merge(
      answer.data.frames.map((frame, index) => ({
        frame,
        length: 1,
        name: `scene ${String(index + 1).padStart(length, '0')}`,
        note: '',
        colour: 'slate',
      })),
    );
  };
  const faults = [error, putError, readError, scenes.error].filter((one) => one !== undefined) as Problem[];
  return (
    <Card title="Markers" aside={data && (markers.length === 0 ? 'none yet' : plural(markers.length, 'marker'))}>
      <Box sx={{ display: 'grid', gap: 1.25 }}>
        <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
          <Button size="small" variant="contained" disabled={!data || putting} onClick={() => void add()}>
            Mark frame {at}
          </Button>
          {isVideo(source) && (
            <Button size="small" variant="outlined" disabled={scenes.isLoading} onClick={() => void atScenes()}>
              {scenes.isLoading ? 'Looking for scenes' : 'At scene changes'}
            </Button>
          )}
          <FileButton
            words="Bring from a list"
            accept=".edl,.otio,.csv,.tsv,.txt"
            onText={(name, text) => void bring(name, text)}
          />
        </Box>
        {faults.map((problem) => (
          <ProblemNote key={problem.code} problem={problem} />
        ))}
        <ListProblems problems={problems} most={5} />
        {markers.length === 0 ? (
          <Typography sx={{ fontSize: 13.5, color: 'text.secondary' }}>
            Step to a frame and mark it, or bring an edit list (EDL, OTIO) or a table (CSV) with markers. Stills and
            contact sheets can be made at them.
          </Typography>
        ) : (
          <Box role="list" aria-label="Markers" sx={{ height: Math.min(markers.length, 7) * rowHeight, mx: -0.5 }}>
            <Virtuoso
              totalCount={markers.length}
              fixedItemHeight={rowHeight}
              itemContent={(index) => {
                const marker = markers[index];
                if (!marker) return <div style={{ height: rowHeight }} />;
                const on = index === place;
                return (
                  <Box
                    role="listitem"
                    sx={{
                      height: rowHeight,
                      display: 'flex',
                      alignItems: 'center',
                      bgcolor: on ? tokens.actWash : undefined,
                      borderRadius: '4px',
                    }}
                  >
                    <ButtonBase
                      aria-pressed={on}
                      onClick={() => {
                        setChosen(on ? null : index);
                        onGo(marker.frame);
                      }}
                      sx={{
                        flex: 1,
                        minWidth: 0,
                        height: '100%',
                        gap: 1,
                        px: 0.75,
                        justifyContent: 'flex-start',
                        fontFamily: 'inherit',
                        fontSize: 13.5,
                        textAlign: 'left',
                      }}
                    >
                      <Flag colour={marker.colour} />
                      <span className="mono" style={{ minWidth: 44, fontSize: 12.5 }}>
                        {marker.frame}
                        {marker.length > 1 && `+${marker.length - 1}`}
                      </span>
                      <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
                        {marker.name || (
                          <Box component="i" sx={{ color: 'text.secondary' }}>
                            no name
                          </Box>
                        )}
                        {marker.note && (
                          <Box component="span" sx={{ color: 'text.secondary' }}>{`, ${marker.note}`}</Box>
                        )}
                      </Box>
                    </ButtonBase>
                    <IconButton
                      size="small"
                      aria-label={`Take the marker at frame ${marker.frame} away`}
                      onClick={() => {
                        setChosen(null);
                        void save(markers.filter((_, k) => k !== index));
                      }}
                    >
                      <Close sx={{ fontSize: 15 }} />
                    </IconButton>
                  </Box>
                );
              }}
            />
          </Box>
        )}
        {marked && place !== null && (
          <MarkerFields
            key={`${place} ${version}`}
            marker={marked}
            span={span}
            onSay={(next) => void save(markers.map((one, k) => (k === place ? next : one)))}
          />
        )}
        {markers.length > 0 && <Uses source={source} />}
        <Spread source={source} />
      </Box>
    </Card>
  );
}

/** A marker's fields, kept once one leaves them. */
function MarkerFields({
  marker,
  span,
  onSay,
}: {
  marker: Marker;
  span: { first: number; last: number } | undefined;
  onSay: (marker: Marker) => void;
}) {
  const [draft, setDraft] = useState(marker);
  const fault = markerFault(draft, span);
  const keep = (next: Marker) => {
    if (JSON.stringify(next) !== JSON.stringify(marker) && !markerFault(next, span)) onSay(next);
  };
  return (
    <Box
      onBlur={() => keep(draft)}
      sx={{ display: 'grid', gap: 1.25, pt: 0.75 }}
      role="group"
      aria-label={`Marker at frame ${marker.frame}`}
    >
      <Text label="Name" value={draft.name} onSay={(name) => setDraft({ ...draft, name: name.slice(0, 200) })} />
      <Text label="Note" value={draft.note} onSay={(note) => setDraft({ ...draft, note: note.slice(0, 4000) })} />
      <Pair>
        <Whole label="Frame" value={draft.frame} onSay={(frame) => frame !== null && setDraft({ ...draft, frame })} />
        <Whole
          label="Length"
          value={draft.length}
          onSay={(length) => setDraft({ ...draft, length: Math.max(1, length ?? 1) })}
        />
      </Pair>
      <Choice
        label="Colour"
        value={draft.colour}
        options={colourOptions}
        onSay={(colour) => {
          const next = { ...draft, colour: colour };
          setDraft(next);
          keep(next);
        }}
      />
      {fault && (
        <Typography role="alert" sx={{ fontSize: 13, color: 'error.main' }}>
          {fault}
        </Typography>
      )}
    </Box>
  );
}

/** A contact sheet of frames evenly spread, without any marker. */
function Spread({ source }: { source: ListedSource }) {
  const [count, setCount] = useState<number | null>(24);
  const sheet = (kind: string) =>
    `/api/sources/${source.id}/sheet?kind=${kind}&columns=6&count=${Math.min(400, Math.max(1, count ?? 24))}`;
  return (
    <Box
      sx={{ display: 'grid', gridTemplateColumns: '150px 1fr', gap: 1, alignItems: 'center', fontSize: 13, pt: 0.75 }}
    >
      <Whole label="Frames evenly spread" value={count} onSay={setCount} />
      <span>
        as a contact sheet:{' '}
        <Link href={sheet('png')} target="_blank" rel="noreferrer">
          PNG
        </Link>
        ,{' '}
        <Link href={sheet('pdf')} target="_blank" rel="noreferrer">
          PDF
        </Link>
      </span>
    </Box>
  );
}

/** What can be made at markers. */
function Uses({ source }: { source: ListedSource }) {
  const navigate = useNavigate();
  const { data: start } = useStartingSpecQuery(source.id);
  const file = (kind: string) => `/api/sources/${source.id}/markers/file?kind=${kind}`;
  const sheet = (kind: string) => `/api/sources/${source.id}/sheet?at=markers&kind=${kind}&columns=4`;
  const stills = () => {
    if (!start) return;
    keepSpec(source.id, { ...start, frames: 'markers', names: { ...start.names, template: '{stem}_{marker}.{ext}' } });
    void navigate(`/convert/${source.id}`);
  };
  return (
    <Box sx={{ display: 'grid', gap: 0.75, justifyItems: 'start', fontSize: 13 }}>
      <Button size="small" variant="outlined" disabled={!start} onClick={stills}>
        Make stills at them
      </Button>
      <span>
        Contact sheet as{' '}
        <Link href={sheet('png')} target="_blank" rel="noreferrer">
          PNG
        </Link>{' '}
        or{' '}
        <Link href={sheet('pdf')} target="_blank" rel="noreferrer">
          PDF
        </Link>
        ; the list as <Link href={file('csv')}>CSV</Link>, <Link href={file('edl')}>EDL</Link> or{' '}
        <Link href={file('otio')}>OTIO</Link>.
      </span>
    </Box>
  );
}
