import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import {
  cadenceWords,
  coverageCount,
  covers,
  frameAt,
  isAnimation,
  printCoverage,
  type Cadence,
  type Problem,
  type TimeSpec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useCadenceQuery, useFindCadenceMutation, useStartingSpecQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { Chart } from '../../pieces/Chart.tsx';
import type { ChartOption } from '../../pieces/DrawnChart.tsx';
import { FactList } from '../../pieces/FactList.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { plural } from '../../pieces/words.ts';
import type { Tokens } from '../../theme/tokens.ts';
import { keepSpec } from '../../state/keptSpec.ts';

/** How frames follow one another: which repeat, which are missing, in what pattern. */
export function CadenceCard({ source }: { source: ListedSource }) {
  const { tokens } = useTheme();
  const { currentData, error } = useCadenceQuery({ id: source.id, modified: source.modified });
  const [find, { isLoading, error: findError }] = useFindCadenceMutation();
  const running = useRef<{ abort: () => void } | null>(null);
  const [stopped, setStopped] = useState(false);
  const cadence = currentData?.cadence ?? null;
  const rate = source.declaration.rate.value;
  const option = useMemo(() => cadence && chartOption(cadence, source, tokens), [cadence, source, tokens]);
  const frames = coverageCount(source.coverage);
  const problem = (error ?? (stopped ? undefined : findError)) as Problem | undefined;
  const look = () => {
    setStopped(false);
    running.current = find(source.id);
  };
  const stop = () => {
    setStopped(true);
    running.current?.abort();
  };
  return (
    <Card title="Cadence" aside={isLoading ? 'looking at every frame' : undefined}>
      <Box sx={{ minHeight: 200, display: 'grid', gap: 1.25, alignContent: 'start' }}>
        {problem && <ProblemNote problem={problem} />}
        {!cadence && (
          <Typography sx={{ fontSize: 13.5, color: 'text.secondary' }}>
            Shale compares each frame with the previous one to find repeats, missing frames, animation on twos, 24 in
            30, and pulldown. {plural(frames, 'frame')} {frames === 1 ? 'is' : 'are'} read once for that.
          </Typography>
        )}
        {cadence && option && (
          <>
            <Typography sx={{ fontSize: 17, fontWeight: 620 }} data-testid="cadence">
              {cadenceWords(cadence, rate)}
            </Typography>
            <Chart
              option={option}
              height={150}
              label={`How much each frame differs from the one before: ${cadenceWords(cadence, rate)}`}
            />
            <FactList
              rows={[
                ['Repeat', listed(cadence.repeats, 'no frame')],
                ['Missing before', listed(cadence.jumps, 'none apparently')],
                ...(cadence.pattern
                  ? ([
                      [
                        'Applies to',
                        `${(cadence.pattern.holds * 100).toFixed(1)}% of ${plural(cadence.frames, 'frame')}`,
                      ],
                    ] as [string, string][])
                  : []),
              ]}
            />
            <Mends source={source} cadence={cadence} />
          </>
        )}
        {!cadence && (
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button
              size="small"
              variant="contained"
              disabled={isLoading || frames < 2 || isAnimation(source)}
              onClick={look}
            >
              {isLoading ? 'Looking' : 'Find its cadence'}
            </Button>
            {isLoading && (
              <Button size="small" variant="outlined" onClick={stop}>
                Stop
              </Button>
            )}
          </Box>
        )}
      </Box>
    </Card>
  );
}

function listed(ranges: Cadence['repeats'], otherwise: string): string {
  if (ranges.length === 0) return otherwise;
  const text = printCoverage(ranges);
  return `${coverageCount(ranges)}: ${text.length > 60 ? `${text.slice(0, 60)}...` : text}`;
}

/** What takes it back, a press. */
function Mends({ source, cadence }: { source: ListedSource; cadence: Cadence }) {
  const navigate = useNavigate();
  const { data: start } = useStartingSpecQuery(source.id);
  const take = (time: Partial<TimeSpec>) => {
    if (!start) return;
    keepSpec(source.id, { ...start, time: { ...start.time, ...time } });
    void navigate(`/convert/${source.id}`);
  };
  const { pulldown, repeats } = cadence;
  return (
    <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
      {pulldown && (
        <Button
          size="small"
          variant="outlined"
          onClick={() => take({ undo: 'pulldown', phase: pulldown.phase, lines: pulldown.lines })}
        >
          Convert without its pulldown
        </Button>
      )}
      {!pulldown && repeats.length > 0 && (
        <Button size="small" variant="outlined" onClick={() => take({ undo: 'holds' })}>
          Convert without its {plural(coverageCount(repeats), 'repeat')}
        </Button>
      )}
    </Box>
  );
}

function chartOption(
  { differences, every, repeats, jumps }: Cadence,
  { coverage }: ListedSource,
  tokens: Tokens,
): ChartOption {
  const axis = { axisLabel: { color: tokens.soft, hideOverlap: true }, splitLine: { show: false } };
  const frames = differences.map((_, at) => frameAt(coverage, at * every) ?? at);
  const most = Math.max(...differences, 0.01);
  // A frame that repeats has no height of its own: it is a mark on the ground.
  return {
    grid: { left: 40, right: 8, top: 14, bottom: 22 },
    xAxis: { type: 'category', data: frames.map(String), ...axis },
    yAxis: {
      type: 'value',
      min: -most * 0.08,
      max: most,
      axisLabel: {
        color: tokens.soft,
        showMaxLabel: false,
        showMinLabel: false,
        formatter: (value) => (value < 0 ? '' : String(Number(value.toFixed(1)))),
      },
      splitLine: { show: false },
    },
    tooltip: { trigger: 'axis', renderMode: 'richText' },
    series: [
      {
        type: 'bar',
        name: 'differs by',
        barCategoryGap: '10%',
        data: differences.map((value, at) => ({
          value: covers(repeats, frames[at]!) ? -most * 0.08 : value,
          itemStyle: {
            color: covers(jumps, frames[at]!) ? tokens.fault : covers(repeats, frames[at]!) ? tokens.doubt : tokens.act,
          },
        })),
      },
    ],
  };
}
