import Box from '@mui/material/Box';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import { delaysOf, plural, printRate, type ShownTry } from '@shale/core';
import type { SearchView } from '@shale/contract';
import { Card } from '../../../pieces/Card.tsx';
import { Chart } from '../../../pieces/Chart.tsx';
import type { ChartOption } from '../../../pieces/DrawnChart.tsx';
import { State } from '../../../pieces/State.tsx';
import { decimalBytes } from './bytes.ts';

/** `24 fps as 4, 4, 5, 4 ... hundredths`, or the rate where delays keep it. */
function delaysSaid({ rate, frames }: ShownTry, perSecond: number | undefined): string {
  if (perSecond === undefined) return printRate(rate);
  const delays = delaysOf(rate, Math.min(6, frames), perSecond);
  if (delays.every((delay) => delay === delays[0]))
    return `${printRate(rate)} as ${delays[0]} ${perSecond === 100 ? 'hundredths' : 'thousandths'} each`;
  return `${printRate(rate)} as ${delays.join(', ')} ... ${perSecond === 100 ? 'hundredths' : 'thousandths'}: exact on average`;
}

interface SizeProps {
  view: SearchView;
  one: ShownTry;
  /** Of the format. */
  perSecond: number | undefined;
  words: string;
}

/** Bytes in large figures beside the limit, and what they buy. */
export function SizeCard({ view: { limit, tries, state, progress }, one, perSecond, words }: SizeProps) {
  const { tokens } = useTheme();
  const over = limit !== null && one.bytes > limit;
  const share = limit === null ? null : one.bytes / limit;
  return (
    <Card title="Bytes" aside={state === 'searching' ? searching(tries.length, progress) : undefined}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1, flexWrap: 'wrap' }}>
        <Typography
          component="span"
          data-testid="bytes"
          title={plural(one.bytes, 'byte')}
          sx={{ fontSize: 38, fontWeight: 650, lineHeight: 1.1, color: over ? tokens.fault : 'text.primary' }}
        >
          {decimalBytes(one.bytes)}
        </Typography>
        {limit !== null && (
          <Typography component="span" sx={{ fontSize: 17, color: 'text.secondary' }}>
            of {decimalBytes(limit)}
          </Typography>
        )}
        {share !== null && (
          <Box sx={{ ml: 'auto', fontSize: 13 }}>
            <State severity={over ? 'fault' : 'note'}>
              {share < 0.995 || share > 1 ? `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %` : '99 %'} after{' '}
              {plural(tries.length, 'encode')}
            </State>
          </Box>
        )}
      </Box>
      {share !== null && (
        <LinearProgress
          variant="determinate"
          aria-label="Bytes of the limit"
          value={Math.min(100, share * 100)}
          color={over ? 'error' : 'primary'}
          sx={{ height: 9, borderRadius: '4px', my: 1 }}
        />
      )}
      <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>
        {words}, {one.width} x {one.height}, {plural(one.frames, 'picture')}; {delaysSaid(one, perSecond)}
      </Typography>
    </Card>
  );
}

const searching = (made: number, progress: SearchView['progress']): string =>
  `encode ${made + 1}${progress ? `: ${Math.floor((100 * progress.done) / Math.max(1, progress.of))} %` : ''}`;

/** What each stored picture takes of the file. */
export function FrameBytesCard({ frameBytes }: { frameBytes: readonly number[] }) {
  const most = frameBytes.reduce((a, b) => Math.max(a, b), 0);
  const words = `${decimalBytes(most)} at most, picture ${frameBytes.indexOf(most)}`;
  const { tokens } = useTheme();
  const option = useMemo(
    (): ChartOption => ({
      grid: { left: 44, right: 6, top: 8, bottom: 20 },
      xAxis: {
        type: 'category',
        data: frameBytes.map((_, frame) => String(frame)),
        axisLabel: { color: tokens.soft, hideOverlap: true },
        axisTick: { show: false },
        axisLine: { lineStyle: { color: tokens.rule } },
      },
      yAxis: {
        type: 'value',
        splitNumber: 2,
        axisLabel: { color: tokens.soft, formatter: (value: number) => decimalBytes(value, 0) },
        splitLine: { lineStyle: { color: tokens.rule } },
      },
      tooltip: { trigger: 'axis', renderMode: 'richText', formatter: (some) => told(some) },
      series: [
        {
          type: 'bar',
          barCategoryGap: '18%',
          data: frameBytes.map((bytes) => ({
            value: bytes,
            itemStyle: { color: bytes === most ? tokens.doubt : tokens.act },
          })),
        },
      ],
    }),
    [frameBytes, tokens, most],
  );
  return (
    <Card title="Bytes of each picture" aside={words} sx={{ minHeight: 0 }}>
      <Chart
        option={option}
        height={118}
        label={`Bytes of each of ${plural(frameBytes.length, 'picture')}: ${words}`}
      />
    </Card>
  );
}

function told(some: unknown): string {
  const [{ name, value } = { name: '', value: 0 }] = some as { name: string; value: number }[];
  return `picture ${name}: ${value.toLocaleString('en-GB')} bytes`;
}

/** Tries that no other beats in both bytes and likeness, the smallest first. */
export const frontierOf = (tries: readonly ShownTry[]): ShownTry[] =>
  tries
    .filter((one) => !tries.some((other) => other.bytes <= one.bytes && other.ssim > one.ssim))
    .sort((a, b) => a.bytes - b.bytes);

/** Every try by its bytes and its likeness to what is wanted; those that no other beats are joined. */
export function TriesChart({ view, taken }: { view: SearchView; taken: number }) {
  const { tokens } = useTheme();
  const { tries, limit } = view;
  const option = useMemo((): ChartOption => {
    const bytes = tries.map((one) => one.bytes);
    const ends = [...bytes, ...(limit === null ? [] : [limit])];
    const [least, most] = [Math.min(...ends), Math.max(...ends)];
    const room = Math.max(1, (most - least) * 0.12);
    const ssims = tries.map(({ ssim }) => ssim);
    const [low, high] = [Math.min(...ssims), Math.max(...ssims)];
    const [bottom, top] = [
      low - Math.max(0.002, (high - low) * 0.2),
      Math.min(1, high + Math.max(0.002, (high - low) * 0.2)),
    ];
    const line = { type: 'line' as const, showSymbol: false, silent: true, animation: false };
    const frontier = frontierOf(tries);
    return {
      grid: { left: 54, right: 22, top: 22, bottom: 26 },
      xAxis: {
        type: 'value',
        min: Math.max(0, least - room),
        max: most + room,
        axisLabel: { color: tokens.soft, hideOverlap: true, formatter: (value: number) => decimalBytes(value) },
        splitLine: { show: false },
      },
      yAxis: {
        type: 'value',
        min: bottom,
        max: top,
        axisLabel: {
          color: tokens.soft,
          formatter: (value: number) => value.toFixed(3),
          showMinLabel: false,
          showMaxLabel: false,
        },
        splitLine: { lineStyle: { color: tokens.rule } },
      },
      series: [
        ...(limit === null
          ? []
          : [
              {
                ...line,
                data: [
                  [limit, top],
                  [most + room, top],
                ],
                lineStyle: { width: 0 },
                areaStyle: { color: tokens.faultWash, opacity: 0.6, origin: 'start' as const },
              },
              {
                ...line,
                data: [
                  [limit, bottom],
                  [limit, top],
                ],
                lineStyle: { color: tokens.fault, type: 'dashed' as const, width: 1.4 },
                endLabel: {
                  show: true,
                  formatter: decimalBytes(limit),
                  color: tokens.fault,
                  offset: [2, 8] as [number, number],
                },
              },
            ]),
        { ...line, data: frontier.map((one) => [one.bytes, one.ssim]), lineStyle: { color: tokens.act, width: 2 } },
        {
          type: 'line',
          animation: false,
          lineStyle: { width: 0 },
          symbol: 'circle',
          symbolSize: (_, { dataIndex }: { dataIndex: number }) => (dataIndex === taken ? 17 : 12),
          label: {
            show: true,
            position: 'right',
            color: tokens.ink,
            formatter: ({ dataIndex }: { dataIndex: number }) => String(dataIndex + 1),
          },
          data: tries.map((one, at) => ({
            value: [one.bytes, one.ssim],
            itemStyle: {
              color: at === taken ? tokens.act : tokens.sheet,
              borderColor: frontier.includes(one) ? tokens.act : tokens.soft,
              borderWidth: 2,
            },
          })),
        },
      ],
    };
  }, [tries, limit, taken, tokens]);
  return (
    <Card title="Bytes against likeness (SSIM): further up and left is better">
      <Chart
        option={option}
        height={190}
        label={`Bytes and likeness of ${plural(tries.length, 'try', 'tries')}; the table below has the numbers`}
      />
    </Card>
  );
}
