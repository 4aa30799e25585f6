import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { Fragment, useMemo } from 'react';
import { useNavigate } from 'react-router';
import {
  hasAlphaIn,
  lighterOf,
  lighterWords,
  lightSpec,
  lookedWords,
  memoryWords,
  printBits,
  weightOf,
  type PlaybackWeight,
  type Problem,
  type Rate,
  type Weighed,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useStartingSpecQuery, useWeightQuery } from '../api/api.ts';
import { Card } from './Card.tsx';
import { Chart } from './Chart.tsx';
import type { ChartOption } from './DrawnChart.tsx';
import { FactList } from './FactList.tsx';
import { ProblemNote } from './Notes.tsx';
import { State } from './State.tsx';
import { printBytes } from './words.ts';
import type { Tokens } from '../theme/tokens.ts';
import { keepSpec } from '../state/keptSpec.ts';

const severities = { plays: 'note', close: 'doubt', stutters: 'fault' } as const;

/** What playing a source costs here: bytes, decoding, memory, whether it will do, and what would. */
export function WeightCard({ source }: { source: ListedSource }) {
  const { tokens } = useTheme();
  const rate = source.declaration.rate.value;
  const { currentData, error, isFetching, refetch } = useWeightQuery({ id: source.id, modified: source.modified });
  const weight = currentData && rate ? weightOf(currentData, rate) : undefined;
  const option = useMemo(() => currentData && chartOption(currentData, tokens), [currentData, tokens]);
  if (error) return <Card title="Playback weight">{<ProblemNote problem={error as Problem} />}</Card>;
  return (
    <Card title="Playback weight" aside={isFetching ? 'measuring' : undefined}>
      <Box sx={{ minHeight: 300 }}>
        {!rate && <Typography>Declare its rate: the data rate depends on it.</Typography>}
        {weight && currentData && (
          <>
            <Box data-testid="weight">
              <State severity={severities[weight.verdict]}>{weight.sentence}</State>
            </Box>
            <Box sx={{ my: 1 }}>
              <FactList
                rows={[
                  ['Data', `${printBits(weight.bitrate)} or ${printBytes(weight.bitrate / 8)} a second`],
                  [
                    'Decoding',
                    weight.decodeRate === null ? 'none' : `${weight.decodeRate.toFixed(1)} frames a second on one core`,
                  ],
                  ['Memory', memoryWords(weight)],
                  ['Frames measured', lookedWords(currentData)],
                ]}
              />
            </Box>
            <Chart option={option!} height={150} label={`Bytes and decoding time of frames: ${weight.sentence}`} />
            <LighterVersions source={source} weight={weight} rate={rate!} />
            <Button size="small" sx={{ mt: 0.5, ml: -1, px: 1 }} disabled={isFetching} onClick={() => void refetch()}>
              Measure again
            </Button>
          </>
        )}
      </Box>
    </Card>
  );
}

/** Specs of lighter versions, a press each. */
function LighterVersions({ source, weight, rate }: { source: ListedSource; weight: PlaybackWeight; rate: Rate }) {
  const navigate = useNavigate();
  const { data: start } = useStartingSpecQuery(source.id);
  const versions = lighterOf(source.facts?.format ?? '', hasAlphaIn(source) ? 'vp9' : 'h264', weight, rate);
  if (versions.length === 0 || !start) return null;
  const take = (scale: number) => {
    keepSpec(source.id, lightSpec(start, scale));
    void navigate(`/convert/${source.id}`);
  };
  return (
    <Box sx={{ mt: 1 }}>
      <Typography sx={{ fontSize: 13, mb: 0.75 }}>{lighterWords(versions, rate)}</Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'auto 1fr', gap: '6px 10px', alignItems: 'center' }}>
        {versions.map(({ scale, words, tells, plays }) => (
          <Fragment key={scale}>
            <Button variant={plays ? 'contained' : 'outlined'} size="small" onClick={() => take(scale)}>
              {words}
            </Button>
            <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>{tells}</Typography>
          </Fragment>
        ))}
      </Box>
    </Box>
  );
}

function chartOption({ bytes, decode }: Weighed, tokens: Tokens): ChartOption {
  const axis = { axisLabel: { color: tokens.soft, hideOverlap: true }, splitLine: { show: false } };
  return {
    grid: { left: 46, right: 40, top: 30, bottom: 20 },
    xAxis: { type: 'value', min: 'dataMin', max: 'dataMax', ...axis },
    yAxis: [
      { type: 'value', name: 'KiB', min: 0, ...axis },
      { type: 'value', name: 'ms', min: 0, ...axis },
    ],
    tooltip: { trigger: 'axis', renderMode: 'richText' },
    series: [
      {
        type: 'line',
        name: 'KiB',
        showSymbol: false,
        lineStyle: { color: tokens.act, width: 1.2 },
        itemStyle: { color: tokens.act },
        data: bytes.map(([frame, size]) => [frame, Math.round(size / 102.4) / 10]),
      },
      {
        type: 'line',
        name: 'ms',
        yAxisIndex: 1,
        symbolSize: 4,
        symbol: 'circle',
        lineStyle: { width: 0 },
        itemStyle: { color: tokens.doubt },
        data: decode.map(([frame, time]) => [frame, Math.round(time * 10) / 10]),
      },
    ],
  };
}
