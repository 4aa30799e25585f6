import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { frameSpan, hasFrames, parseRate, rateFraction, type Alignment, type Problem, type Rate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useCompareQuery } from '../../api/api.ts';
import { useRested } from '../../pieces/useRested.ts';
import { Card } from '../../pieces/Card.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { Segments } from '../../pieces/Segments.tsx';
import { SourcePicker } from '../../pieces/SourcePicker.tsx';
import { Text } from '../../pieces/slimFields.tsx';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { useOther, type Other } from '../against.ts';
import { isThere, picturesOf } from '../frames.ts';
import { useStageFrame } from '../useStageFrame.ts';
import { heldAgainst, stageSet, type Against } from '../state.ts';
import { CompareModes } from './CompareModes.tsx';
import { ComparisonNumbers } from './ComparisonNumbers.tsx';

/** How close a worst pixel is looked at. */
const close = 16;

/** Shows a pixel of a source, large and in the middle. */
export function usePixelShown(source: string) {
  const dispatch = useAppDispatch();
  return ({ x, y }: { x: number; y: number }) =>
    dispatch(stageSet({ zoom: { source, zoom: { scale: close, x: x + 0.5, y: y + 0.5 } } }));
}

/** To begin with frames of the same number go together; where no number is in both, the first frames do. */
function firstAlignment(a: ListedSource, b: ListedSource): Alignment {
  const [mine, theirs] = [frameSpan(a.coverage), frameSpan(b.coverage)];
  const apart = !mine || !theirs || mine.last < theirs.first || theirs.last < mine.first;
  return { by: 'number', offset: apart && mine && theirs ? theirs.first - mine.first : 0 };
}

const ways = [
  ['number', 'Frame numbers'],
  ['time', 'Time'],
] as const;

/** Another source, or the same at another rate, held against this one: chosen, aligned, told in numbers. */
export function CompareCard({ source }: { source: ListedSource }) {
  const dispatch = useAppDispatch();
  const other = useOther(source, source.id, true);
  const hold = (against: Against | null) => dispatch(heldAgainst({ key: source.id, against }));
  const change = (changes: Partial<Against>) => other && hold({ ...other.against, ...changes });
  const isItself = other?.source.id === source.id;
  return (
    <Card
      title={other ? `Against ${isItself ? 'itself at another rate' : other.source.name}` : 'With another source'}
      aside={
        other && (
          <Button size="small" sx={{ py: 0, px: 1 }} onClick={() => hold(null)}>
            Stop comparing
          </Button>
        )
      }
    >
      <Box sx={{ display: 'grid', gap: 1.5 }}>
        {!isItself && (
          <SourcePicker
            label="Another source"
            value={other?.source ?? null}
            onSay={(_, listed) => hold({ id: listed.id, alignment: firstAlignment(source, listed), rate: null })}
          />
        )}
        {!other && hasFrames(source) && (
          <Button
            size="small"
            sx={{ justifySelf: 'start', ml: -1, px: 1 }}
            onClick={() => {
              hold({ id: source.id, alignment: { by: 'time', offset: 0 }, rate: { num: 30, den: 1 } });
              dispatch(stageSet({ mode: 'side' }));
            }}
          >
            Itself at another rate
          </Button>
        )}
        {!other && (
          <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>
            Two renders, two versions, the picture before and after: side by side, with a wipe, as their difference, or
            one after the other.
          </Typography>
        )}
        {other && <CompareModes />}
        {other && hasFrames(other.source) && other.against.alignment.by !== 'plan' && (
          <Aligned source={source} other={other} onSay={change} />
        )}
        {other && !isItself && <Numbers source={source} other={other} />}
      </Box>
    </Card>
  );
}

/** Which frames go together. */
function Aligned({
  source,
  other,
  onSay,
}: {
  source: ListedSource;
  other: Other;
  onSay: (changes: Partial<Against>) => void;
}) {
  const alignment = other.against.alignment as Exclude<Alignment, { by: 'plan' }>;
  const at = useStageFrame(source);
  const partner = other.partner(at);
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <Segments
          label="Match frames by"
          value={alignment.by}
          options={ways}
          onChoose={(by) => onSay({ alignment: { by, offset: by === 'time' ? 0 : alignment.offset } })}
        />
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
        <OffsetField value={alignment.offset} onSay={(offset) => onSay({ alignment: { ...alignment, offset } })} />
        {alignment.by === 'time' && <RateField value={other.rate} onSay={(rate) => onSay({ rate })} />}
      </Box>
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        Frame {at} matches{' '}
        {partner === undefined
          ? 'none'
          : isThere(other.source, partner)
            ? `frame ${partner}`
            : `frame ${partner}, which is missing`}
        .{alignment.by === 'time' && !source.declaration.rate.value && ' This source has no rate: frames are counted.'}
      </Typography>
    </>
  );
}

/** A whole number of frames, either way. */
function OffsetField({ value, onSay }: { value: number; onSay: (offset: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <Text
      label="Offset, frames"
      mono
      value={typed ?? String(value)}
      error={typed !== null && !/^[-+]?\d{1,8}$/.test(typed.trim())}
      onSay={(text) => {
        const fits = /^[-+]?\d{1,8}$/.test(text.trim());
        setTyped(fits && String(Number(text)) === text.trim() ? null : text);
        if (fits) onSay(Number(text));
      }}
    />
  );
}

/** The rate that the other plays at. */
function RateField({ value, onSay }: { value: Rate | null; onSay: (rate: Rate) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const read = (text: string): Rate | undefined => {
    try {
      return parseRate(text);
    } catch {
      return undefined;
    }
  };
  return (
    <Text
      label="Its rate"
      mono
      value={typed ?? (value ? rateFraction(value) : '')}
      placeholder="24000/1001"
      error={typed !== null && read(typed) === undefined}
      onSay={(text) => {
        const rate = read(text);
        setTyped(rate && rateFraction(rate) === text.trim() ? null : text);
        if (rate) onSay(rate);
      }}
    />
  );
}

/** How the frames on the stage differ; not while playing. */
export function Numbers({ source, other }: { source: ListedSource; other: Other }) {
  const playing = useAppSelector(({ stage }) => stage.playing);
  const at = useRested(useStageFrame(source), 200);
  const go = usePixelShown(source.id);
  const partner = other.partner(at);
  const there = partner !== undefined && isThere(source, at) && isThere(other.source, partner);
  const asked = {
    a: source.id,
    frameA: at,
    b: other.source.id,
    frameB: partner ?? 0,
    version: `${picturesOf(source)} ${picturesOf(other.source)}`,
  };
  const { currentData, error, isFetching } = useCompareQuery(asked, { skip: !there || playing });
  if (error) return <ProblemNote problem={error as Problem} />;
  return (
    <Box sx={{ minHeight: 190 }}>
      {!there ? (
        <Typography sx={{ color: 'text.secondary', fontSize: 13 }}>No two frames to compare here.</Typography>
      ) : currentData ? (
        currentData.comparison ? (
          <ComparisonNumbers comparison={currentData.comparison} onGo={go} />
        ) : (
          <Typography sx={{ color: 'text.secondary', fontSize: 13 }}>
            They have different sizes, so that no pixel of one is a pixel of the other: {sizeOf(source)} and{' '}
            {sizeOf(other.source)}.
          </Typography>
        )
      ) : (
        <Typography sx={{ color: 'text.secondary', fontSize: 13 }}>
          {playing ? 'Numbers appear when playback stops.' : isFetching ? 'Comparing.' : ''}
        </Typography>
      )}
    </Box>
  );
}

const sizeOf = ({ facts }: ListedSource): string => (facts ? `${facts.width} x ${facts.height}` : 'unknown');
