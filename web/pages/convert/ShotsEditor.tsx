import Close from '@mui/icons-material/Close';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import {
  coverageCount,
  frameSpan,
  hasFrames,
  intersect,
  isConvertible,
  parseCoverage,
  printRate,
  type Coverage,
  type Plan,
  type Problem,
  type Shot,
  type Spec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useEditFileMutation, useReadEditMutation } from '../../api/api.ts';
import { useLazyNamedQuery } from '../../api/named.ts';
import { FileButton } from '../../pieces/FileButton.tsx';
import { ListProblems, ProblemNote } from '../../pieces/Notes.tsx';
import { saveText } from '../../pieces/save.ts';
import { SortableList } from '../../pieces/SortableList.tsx';
import { SourcePicker } from '../../pieces/SourcePicker.tsx';
import { Text } from '../../pieces/slimFields.tsx';
import { plural } from '../../pieces/words.ts';
import { refusal } from './videoEditors.tsx';
import { keepSpec } from '../../state/keptSpec.ts';

interface Props {
  source: ListedSource;
  plan: Plan;
  spec: Spec;
  change: (spec: Spec) => void;
}

/** What is wrong with an edit list is told by so many lines of it. */
const mostShown = 6;

/** A shot of a list, with what is known of its frames. */
interface Listed {
  name: string;
  frames: string;
  coverage: Coverage | undefined;
}

/** How many frames a shot gives; undefined where its source is not there. */
function countOf({ frames, coverage }: Listed): number | undefined {
  if (!coverage) return undefined;
  if (frames === 'all') return coverageCount(coverage);
  try {
    return coverageCount(intersect(coverage, parseCoverage(frames)));
  } catch {
    return undefined;
  }
}

/** Sources that follow the first: ordered, trimmed, brought and handed out as an edit list. */
export function ShotsEditor({ source, plan, spec, change }: Props) {
  const navigate = useNavigate();
  const { then } = spec;
  const [problems, setProblems] = useState<Problem[]>([]);
  const [readEdit, reading] = useReadEditMutation();
  const [findSources] = useLazyNamedQuery();
  const [editFile, writing] = useEditFileMutation();
  const put = (next: Shot[]) => change({ ...spec, then: next });
  const coverageOf = ({ source: { folder, name } }: Shot) =>
    plan.shots.find((one) => one.source.folder === folder && one.source.name === name)?.source.coverage;
  const listed: Listed[] = [
    { name: source.name, frames: spec.frames === 'markers' ? 'all' : spec.frames, coverage: source.coverage },
    ...then.map((shot) => ({ name: shot.source.name, frames: shot.frames, coverage: coverageOf(shot) })),
  ];
  const own = { root: source.root, folder: source.folder, name: source.name };
  const all: Shot[] = [{ source: own, frames: spec.frames }, ...then];
  /** The first shot is the source that a page is of: where another comes first, its page is opened. */
  const order = async (next: Shot[]) => {
    const [first, ...rest] = next;
    if (!first || first === all[0]) return put(rest);
    const { root, folder, name } = first.source;
    const { data: found } = await findSources([{ root, folder, name }]);
    const id = found?.[0]?.id;
    if (id === undefined)
      return setProblems([
        { code: 'source-not-found', fact: `${name} no longer exists.`, wayOut: 'Choose another first source.' },
      ]);
    const before = spec.frames === 'markers' ? 'all' : spec.frames;
    const after = rest.map((shot) => (shot === all[0] ? { ...shot, frames: before } : shot));
    keepSpec(id, { ...spec, frames: first.frames, then: after });
    void navigate(`/convert/${id}`);
  };
  const bring = async (name: string, text: string) => {
    const rate = plan.rate ?? source.declaration.rate.value;
    if (!rate) {
      setProblems([
        {
          code: 'rate-not-declared',
          fact: 'An edit list needs a rate, and this source has none.',
          wayOut: 'Declare the rate of the source first.',
        },
      ]);
      return;
    }
    const answer = await readEdit({ name, text, rate });
    if (!('data' in answer) || !answer.data) return;
    const { shots, problems: found, first } = answer.data;
    setProblems(found);
    const [opening, ...rest] = shots;
    if (!opening || !first) return;
    const next = { ...spec, frames: opening.frames, then: rest };
    if (first === source.id) change(next);
    else {
      // The first shot is the source that a page is of.
      keepSpec(first, next);
      void navigate(`/convert/${first}`);
    }
  };
  const handOut = async (kind: 'edl' | 'otio') => {
    const answer = await editFile({ source: source.id, spec, kind });
    if ('data' in answer && answer.data !== undefined)
      saveText(`${plan.into.folder || source.name}.${kind}`, answer.data);
  };
  return (
    <Box sx={{ display: 'grid', gap: 1.5, width: 560 }}>
      <Typography variant="h2">Shots in order</Typography>
      <ShotStrip shots={listed} />
      <SortableList
        label="Shots in their order"
        items={all}
        idOf={({ source: { root, folder, name } }, index) => `${index} ${root}/${folder}/${name}`}
        wordsOf={({ source: { name } }) => name}
        onOrder={(next) => void order(next)}
      >
        {(_shot, index) => (
          <Row
            shot={listed[index]!}
            place={index + 1}
            refuse={refuseFrames}
            onFrames={(frames) =>
              index === 0
                ? change({ ...spec, frames })
                : put(then.map((one, at) => (at === index - 1 ? { ...one, frames } : one)))
            }
            {...(index === 0 ? {} : { onRemove: () => put(then.filter((_, at) => at !== index - 1)) })}
          />
        )}
      </SortableList>
      <SourcePicker
        key={then.length}
        label="Add a source at the end"
        value={null}
        takes={(one) => isConvertible(one) && hasFrames(one)}
        onSay={(chosen) => put([...then, { source: chosen, frames: 'all' }])}
      />
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <FileButton
          words="Import an edit list"
          accept=".edl,.otio"
          disabled={reading.isLoading}
          onText={(name, text) => void bring(name, text)}
        />
        <Button size="small" variant="outlined" disabled={writing.isLoading} onClick={() => void handOut('edl')}>
          Export as EDL
        </Button>
        <Button size="small" variant="outlined" disabled={writing.isLoading} onClick={() => void handOut('otio')}>
          As OTIO
        </Button>
      </Box>
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {plan.rate ? `Edit lists count at ${printRate(plan.rate)}. ` : ''}Reads and writes cuts and markers as CMX 3600
        edit lists and OpenTimelineIO.
      </Typography>
      {[reading.error, writing.error].map((error, at) => error && <ProblemNote key={at} problem={error as Problem} />)}
      <ListProblems problems={problems} most={mostShown} />
    </Box>
  );
}

const refuseFrames = (text: string): string | undefined =>
  text.trim() === 'all' ? undefined : refusal(() => parseCoverage(text));

function Row({
  shot,
  place,
  refuse,
  onFrames,
  onRemove,
}: {
  shot: Listed;
  place: number;
  refuse: (text: string) => string | undefined;
  onFrames: (frames: string) => void;
  onRemove?: () => void;
}) {
  const [text, setText] = useState(shot.frames);
  const [seen, setSeen] = useState(shot.frames);
  if (seen !== shot.frames) {
    setSeen(shot.frames);
    setText(shot.frames);
  }
  const span = shot.coverage && frameSpan(shot.coverage);
  const wrong = refuse(text);
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: '20px minmax(0, 1fr) 190px 30px',
        gap: 1,
        alignItems: 'center',
        py: 0.75,
      }}
    >
      <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {place}
      </Typography>
      <Box sx={{ minWidth: 0 }}>
        <Typography className="mono" noWrap sx={{ fontSize: 13 }}>
          {shot.name}
        </Typography>
        <Typography sx={{ fontSize: 12, color: shot.coverage ? 'text.secondary' : 'error.main' }}>
          {span ? `${span.first} to ${span.last}, ${plural(countOf(shot) ?? 0, 'frame')} taken` : 'is not there'}
        </Typography>
      </Box>
      <Text
        label={`Taken of shot ${place}`}
        mono
        value={text}
        error={wrong !== undefined}
        onSay={(said) => {
          setText(said);
          if (refuse(said) === undefined) {
            setSeen(said.trim());
            onFrames(said.trim());
          }
        }}
      />
      {onRemove ? (
        <IconButton size="small" aria-label={`Take shot ${place} out`} onClick={onRemove}>
          <Close sx={{ fontSize: 16 }} />
        </IconButton>
      ) : (
        <span />
      )}
    </Box>
  );
}

/** Shots as pieces of one bar, as long as they last. */
function ShotStrip({ shots }: { shots: readonly Listed[] }) {
  const { tokens } = useTheme();
  const counts = shots.map((shot) => countOf(shot) ?? 0);
  const total = counts.reduce((sum, count) => sum + count, 0);
  return (
    <Box
      role="img"
      aria-label={`${plural(shots.length, 'shot')}, ${plural(total, 'frame')}`}
      sx={{ display: 'flex', height: 26, gap: '2px' }}
    >
      {shots.map((shot, at) => (
        <Box
          key={at}
          title={`${shot.name}: ${plural(counts[at]!, 'frame')}`}
          sx={{
            flexGrow: Math.max(1, counts[at]!),
            flexBasis: 0,
            minWidth: 4,
            bgcolor: shot.coverage ? tokens.actWash : tokens.faultWash,
            borderBottom: `3px solid ${shot.coverage ? tokens.act : tokens.fault}`,
            fontSize: 11.5,
            px: 0.5,
            lineHeight: '23px',
            overflow: 'hidden',
            whiteSpace: 'nowrap',
            textOverflow: 'ellipsis',
          }}
        >
          {at + 1}
        </Box>
      ))}
    </Box>
  );
}
