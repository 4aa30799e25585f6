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
import { frameSpan, isVideo, markerFault, type Marker } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useStartingSpecQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { FileButton } from '../../pieces/FileButton.tsx';
import { colourOptions, Flag } from '../../pieces/markers.tsx';
import { ListProblems, ProblemNote } from '../../pieces/Notes.tsx';
import { Choice, Pair, Text, Whole } from '../../pieces/slimFields.tsx';
import { plural } from '../../pieces/words.ts';
import { useStageFrame } from '../../stage/useStageFrame.ts';
import { keepSpec } from '../../state/keptSpec.ts';
import { useMarkers } from './useMarkers.ts';

const rowHeight = 34;

/** Places of a source that are marked: set, named, brought, handed out, made into stills. */
export function MarkersCard({ source, onGo }: { source: ListedSource; onGo: (frame: number) => void }) {
  const at = useStageFrame(source);
  const marked = useMarkers(source, at);
  const { markers, chosen } = marked;
  const count = markers.length === 0 ? 'none yet' : plural(markers.length, 'marker');
  return (
    <Card title="Markers" aside={marked.loaded && count}>
      <Box sx={{ display: 'grid', gap: 1.25 }}>
        <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
          <Button size="small" variant="contained" disabled={!marked.ready} onClick={() => void marked.add()}>
            Mark frame {at}
          </Button>
          {isVideo(source) && (
            <Button
              size="small"
              variant="outlined"
              disabled={marked.findingScenes}
              onClick={() => void marked.markScenes()}
            >
              {marked.findingScenes ? 'Looking for scenes' : 'At scene changes'}
            </Button>
          )}
          <FileButton
            words="Import markers"
            accept=".edl,.otio,.csv,.tsv,.txt"
            onText={(name, text) => void marked.bring(name, text)}
          />
        </Box>
        {marked.faults.map((problem) => (
          <ProblemNote key={problem.code} problem={problem} />
        ))}
        <ListProblems problems={marked.problems} most={5} />
        {markers.length === 0 ? (
          <Typography sx={{ fontSize: 13.5, color: 'text.secondary' }}>
            Step to a frame and mark it, or import an edit list (EDL, OTIO) or a table (CSV) with markers. Then make
            stills or contact sheets from them.
          </Typography>
        ) : (
          <Box role="list" aria-label="Markers" sx={{ height: Math.min(markers.length, 7) * rowHeight, mx: -0.5 }}>
            <Virtuoso
              totalCount={markers.length}
              fixedItemHeight={rowHeight}
              itemContent={(index) => {
                const marker = markers[index];
                if (!marker) return <div style={{ height: rowHeight }} />;
                const on = index === chosen;
                return (
                  <MarkerRow
                    marker={marker}
                    on={on}
                    onPress={() => {
                      marked.choose(on ? null : index);
                      onGo(marker.frame);
                    }}
                    onRemove={() => marked.remove(index)}
                  />
                );
              }}
            />
          </Box>
        )}
        {chosen !== null && (
          <MarkerFields
            key={`${chosen} ${marked.version}`}
            marker={markers[chosen]!}
            span={frameSpan(source.coverage)}
            onSay={(next) => marked.change(chosen, next)}
          />
        )}
        {markers.length > 0 && <Uses source={source} />}
        <Spread source={source} />
      </Box>
    </Card>
  );
}

interface RowProps {
  marker: Marker;
  /** Whether it is the one that is chosen. */
  on: boolean;
  onPress: () => void;
  onRemove: () => void;
}

/** One marker of the list: its frames, name and note. */
function MarkerRow({ marker, on, onPress, onRemove }: RowProps) {
  const { tokens } = useTheme();
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
        onClick={onPress}
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
          {marker.note && <Box component="span" sx={{ color: 'text.secondary' }}>{`, ${marker.note}`}</Box>}
        </Box>
      </ButtonBase>
      <IconButton size="small" aria-label={`Remove the marker at frame ${marker.frame}`} onClick={onRemove}>
        <Close sx={{ fontSize: 15 }} />
      </IconButton>
    </Box>
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
      <Whole label="Evenly spaced frames" value={count} onSay={setCount} />
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
        Make stills at the markers
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
