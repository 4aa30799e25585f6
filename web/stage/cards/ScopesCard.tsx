import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo, useState } from 'react';
import { channelLetter, printSample, sampleWords, type ChannelScope, type Problem, type Scopes } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { takenVersion, useScopesQuery } from '../../api/api.ts';
import { useRested } from '../../pieces/useRested.ts';
import { Card } from '../../pieces/Card.tsx';
import { Chart } from '../../pieces/Chart.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { Segments } from '../../pieces/Segments.tsx';
import { State } from '../../pieces/State.tsx';
import { plural } from '../../pieces/words.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { isThere } from '../frames.ts';
import { useStageFrame } from '../useStageFrame.ts';
import { stageSet } from '../state.ts';
import { histogramOption, waveformOption } from './scopeCharts.ts';

/** A frame's samples told in numbers, in the file's own units: of all of it, or of the box that is drawn. */
export function ScopesCard({ source }: { source: ListedSource }) {
  const dispatch = useAppDispatch();
  const { region, playing } = useAppSelector(({ stage }) => stage);
  const at = useStageFrame(source);
  const rested = useRested(at, 120);
  const box = region?.source === source.id ? region.box : undefined;
  const there = isThere(source, rested) && source.facts !== undefined;
  const asked = { source: source.id, frame: rested, box, version: takenVersion(source) };
  const { data, error, isFetching } = useScopesQuery(asked, { skip: !there || playing });
  const shown = there ? data : undefined;
  const where = box ? `${box.width} x ${box.height} from ${box.left}, ${box.top}` : `frame ${rested}`;
  return (
    <Card
      title={`Levels, ${where}`}
      aside={
        playing ? 'paused during playback' : isFetching ? 'reading' : source.facts && sampleWords(source.facts.sample)
      }
    >
      {error && there ? (
        <ProblemNote problem={error as Problem} />
      ) : shown ? (
        <Levels scopes={shown} />
      ) : (
        <Typography sx={{ color: 'text.secondary', minHeight: 330 }}>
          {there ? 'Reading the samples.' : 'No frame to measure.'}
        </Typography>
      )}
      <Box sx={{ minHeight: 31 }}>
        {box ? (
          <Button size="small" sx={{ ml: -1, px: 1 }} onClick={() => dispatch(stageSet({ region: null }))}>
            Measure the whole frame
          </Button>
        ) : (
          <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            Hold Shift and draw a box on the picture to measure a part.
          </Typography>
        )}
      </Box>
    </Card>
  );
}

const views = [
  ['histogram', 'Histogram'],
  ['waveform', 'Waveform'],
] as const;

function Levels({ scopes }: { scopes: Scopes }) {
  const { tokens } = useTheme();
  const [view, setView] = useState<'histogram' | 'waveform'>('histogram');
  const [asked, setAsked] = useState<ChannelScope['name']>('green');
  const channel = scopes.channels.find(({ name }) => name === asked) ?? scopes.channels[0]!;
  const option = useMemo(
    () => (view === 'histogram' ? histogramOption(scopes, tokens) : waveformOption(scopes, channel, tokens)),
    [scopes, channel, view, tokens],
  );
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, mb: 1 }}>
        <Segments label="Chart" value={view} options={views} onChoose={setView} />
        {view === 'waveform' && scopes.channels.length > 1 && (
          <Segments
            label="Channel"
            value={channel.name}
            options={scopes.channels.map(({ name }) => [name, channelLetter(name)] as const)}
            onChoose={setAsked}
          />
        )}
      </Box>
      <Chart
        option={option}
        height={150}
        label={
          view === 'histogram' ? 'Histogram of the samples by channel, logarithmic' : `Waveform of ${channel.name}`
        }
      />
      <Table scopes={scopes} />
      <ClipLines scopes={scopes} />
    </>
  );
}

function Table({ scopes }: { scopes: Scopes }) {
  const print = (value: number | null, rounds = false) =>
    value === null ? 'none' : printSample(rounds ? Number(value.toPrecision(5)) : value, true);
  const head = { color: 'text.secondary', fontWeight: 400, textAlign: 'right', p: 0, fontSize: 12.5 } as const;
  return (
    <Box
      component="table"
      className="mono"
      sx={{
        width: '100%',
        fontSize: 12.5,
        mt: 1,
        borderCollapse: 'collapse',
        '& td': { textAlign: 'right', p: '1px 0' },
      }}
    >
      <thead>
        <tr>
          <Box component="th" sx={{ ...head, textAlign: 'left' }} aria-label="Channel" />
          {['least', 'most', 'mean', 'deviation'].map((name) => (
            <Box component="th" scope="col" key={name} sx={head}>
              {name}
            </Box>
          ))}
        </tr>
      </thead>
      <tbody>
        {scopes.channels.map(({ name, least, most, mean, deviation }) => (
          <tr key={name}>
            <Box component="th" scope="row" sx={{ ...head, textAlign: 'left' }}>
              {channelLetter(name)}
            </Box>
            <td>{print(least)}</td>
            <td>{print(most)}</td>
            <td>{print(mean, true)}</td>
            <td>{print(deviation, true)}</td>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}

/** What lies at the ends of the range, or beyond them, by channel. */
function ClipLines({ scopes }: { scopes: Scopes }) {
  const colours = scopes.channels.filter(({ name }) => name !== 'alpha');
  const by = (key: 'bottom' | 'top' | 'below' | 'above' | 'nan' | 'infinite') => {
    const counts = colours.filter((channel) => channel[key] > 0);
    const all = counts.reduce((sum, channel) => sum + channel[key], 0);
    return {
      all,
      each: counts
        .map((channel) => `${channelLetter(channel.name)} ${channel[key].toLocaleString('en-GB')}`)
        .join(', '),
    };
  };
  const lines = (
    scopes.integers
      ? ([
          ['top', 'at the top code', 'doubt'],
          ['bottom', 'at code 0', 'note'],
        ] as const)
      : ([
          ['above', 'above 1', 'doubt'],
          ['below', 'below 0', 'doubt'],
          ['nan', 'not a number', 'fault'],
          ['infinite', 'infinite', 'fault'],
        ] as const)
  ).map(([key, words, severity]) => ({ words, severity, ...by(key) }));
  const found = lines.filter(({ all }) => all > 0);
  return (
    <Box sx={{ mt: 1, display: 'grid', gap: 0.25, minHeight: 40, alignContent: 'start' }} data-testid="clip-counts">
      {found.length === 0 ? (
        <State severity="note">{scopes.integers ? 'No sample at either end' : 'No sample beyond 0 to 1'}</State>
      ) : (
        found.map((line) => (
          <Box key={line.words} sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
            <State severity={line.severity}>
              {plural(line.all, 'sample')} {line.words}
            </State>
            <Box component="span" className="mono" sx={{ fontSize: 12, color: 'text.secondary' }}>
              {colours.length > 1 && line.each}
            </Box>
          </Box>
        ))
      )}
    </Box>
  );
}
