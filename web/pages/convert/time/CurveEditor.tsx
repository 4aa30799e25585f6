import Add from '@mui/icons-material/Add';
import Close from '@mui/icons-material/Close';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import IconButton from '@mui/material/IconButton';
import OutlinedInput from '@mui/material/OutlinedInput';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import { curvePoints, curveProblems, type Rate, type RetimeCurve, type TimeKey } from '@shale/core';
import { Chart } from '../../../pieces/Chart.tsx';
import type { ChartOption, Handles, Point } from '../../../pieces/DrawnChart.tsx';
import type { Tokens } from '../../../theme/tokens.ts';

interface Props {
  curve: RetimeCurve;
  /** First and last frame that the keys may take. */
  span: { first: number; last: number };
  rates: { pictures: Rate; results: Rate } | undefined;
  /** The frame on the stage. */
  at: number;
  onSay: (curve: RetimeCurve) => void;
}

const drawn = 400;

const row = { display: 'grid', gridTemplateColumns: '1fr 1fr 128px 30px', gap: 1, alignItems: 'center' } as const;

/** A curve in the order of its keys in the result. */
const ordered = (keys: readonly TimeKey[]): TimeKey[] => [...keys].sort((a, b) => a.to - b.to);

/** `100%`, `-50%`, `33.3%`. */
export const percent = (speed: number): string => `${Number((speed * 100).toFixed(1))}%`;

/** The keys of a retime curve: dragged in a chart, typed in a table. */
export function CurveEditor({ curve, span, rates, at, onSay }: Props) {
  const { tokens } = useTheme();
  const { keys } = curve;
  const points = useMemo(() => curvePoints(curve, drawn, rates), [curve, rates]);
  const option = useMemo(() => chartOption(points, curve.bend, span, tokens), [points, curve.bend, span, tokens]);
  const within = (frame: number) => Math.min(span.last, Math.max(span.first, frame));
  const put = (next: readonly TimeKey[]) => onSay({ ...curve, keys: ordered(next) });
  const handles: Handles = useMemo(
    () => ({
      points: keys.map(({ from, to }): Point => [to, from]),
      onMove: (index, [to, from]) =>
        put(
          keys.map((key, k) => {
            if (k !== index) return key;
            // A key stays between those beside it.
            const [least, most] = [keys[k - 1]?.to ?? to - 1, keys[k + 1]?.to ?? to + 1];
            return { from: within(from), to: Math.max(0, Math.min(most - 1, Math.max(least + 1, to))) };
          }),
        ),
      onAdd: ([to, from]) => {
        if (to >= 0 && !keys.some((key) => key.to === to)) put([...keys, { from: within(from), to }]);
      },
      lineOf: (moved) =>
        curvePoints(
          { ...curve, keys: ordered(moved.map(([to, from]) => ({ from: within(from), to: Math.max(0, to) }))) },
          drawn,
        ).map((point): Point => [point.to, point.from]),
    }),
    // oxlint-disable-next-line react/exhaustive-deps -- the rest is made of these
    [curve, span, onSay],
  );
  const problems = curveProblems(curve, span);
  const speedTo = (k: number): string => {
    const [a, b] = [keys[k]!, keys[k + 1]];
    if (!b) return '';
    const factor = rates ? (rates.results.num * rates.pictures.den) / (rates.results.den * rates.pictures.num) : 1;
    return b.to > a.to ? percent(((b.from - a.from) / (b.to - a.to)) * factor) : '';
  };
  const last = keys[keys.length - 1];
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }}>
      <Chart
        option={option}
        height={200}
        handles={handles}
        label={`Retime curve with ${keys.length} keys from source frame ${keys[0]?.from ?? 0} to ${last?.from ?? 0}`}
      />
      <Box role="table" aria-label="Keys" sx={{ maxHeight: 150, overflowY: 'auto', display: 'grid', gap: 0.5 }}>
        <Box role="row" sx={{ ...row, fontSize: 12, color: 'text.secondary' }}>
          <span role="columnheader">Frame of the source</span>
          <span role="columnheader">at frame of the result</span>
          <span role="columnheader">then at speed</span>
          <span />
        </Box>
        {keys.map((key, k) => (
          <Box role="row" key={k} sx={row}>
            <Typing
              label={`Source frame of key ${k + 1}`}
              value={key.from}
              onSay={(from) => put(keys.map((one, n) => (n === k ? { ...one, from } : one)))}
            />
            <Typing
              label={`Result frame of key ${k + 1}`}
              value={key.to}
              onSay={(to) => put(keys.map((one, n) => (n === k ? { ...one, to } : one)))}
            />
            <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
              {speedTo(k)}
            </Typography>
            <IconButton
              size="small"
              aria-label={`Remove key ${k + 1}`}
              onClick={() => put(keys.filter((_, n) => n !== k))}
            >
              <Close sx={{ fontSize: 16 }} />
            </IconButton>
          </Box>
        ))}
      </Box>
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', alignItems: 'center' }}>
        <Button
          size="small"
          variant="outlined"
          startIcon={<Add />}
          onClick={() =>
            put([...keys, { from: within(at), to: last ? last.to + Math.max(1, Math.abs(at - last.from)) : 0 }])
          }
        >
          Key at frame {at}
        </Button>
        <Button
          size="small"
          variant="outlined"
          disabled={!last}
          onClick={() => last && put([...keys, { from: last.from, to: last.to + 12 }])}
        >
          Freeze for 12
        </Button>
        <Button
          size="small"
          variant="outlined"
          onClick={() =>
            onSay({
              ...curve,
              backward: true,
              keys: [
                { from: span.last, to: 0 },
                { from: span.first, to: span.last - span.first },
              ],
            })
          }
        >
          Reverse all
        </Button>
        <FormControlLabel
          control={
            <Checkbox size="small" checked={curve.backward} onChange={(_, backward) => onSay({ ...curve, backward })} />
          }
          label="Allow reverse"
        />
      </Box>
      {problems.map(({ fact, wayOut }) => (
        <Typography key={fact} role="alert" sx={{ fontSize: 13, color: 'error.main' }}>
          {fact} {wayOut}
        </Typography>
      ))}
    </Box>
  );
}

/** A whole number of a table's cell, below 0 too where it may be. */
function Typing({ label, value, onSay }: { label: string; value: number; onSay: (value: number) => void }) {
  return (
    <OutlinedInput
      size="small"
      value={String(value)}
      onChange={({ target }) => {
        const text = target.value.trim();
        if (/^-?\d{1,8}$/.test(text)) onSay(Number(text));
        else if (text === '' || text === '-') onSay(0);
      }}
      inputProps={{ 'aria-label': label, className: 'mono', inputMode: 'numeric', autoComplete: 'off' }}
      sx={{ '& input': { py: '4px', fontSize: 13 } }}
    />
  );
}

function chartOption(
  points: ReturnType<typeof curvePoints>,
  bend: RetimeCurve['bend'],
  span: { first: number; last: number },
  tokens: Tokens,
): ChartOption {
  const axis = {
    axisLabel: { color: tokens.soft, hideOverlap: true, formatter: (value: number) => String(Math.round(value)) },
    splitLine: { lineStyle: { color: tokens.rule } },
    nameTextStyle: { color: tokens.soft },
  };
  return {
    grid: { left: 52, right: 48, top: 26, bottom: 38 },
    xAxis: {
      type: 'value',
      name: 'result',
      nameLocation: 'middle',
      nameGap: 24,
      min: 0,
      max: ({ max }) => Math.max(max + 2, Math.ceil(max * 1.08)),
      minInterval: 1,
      ...axis,
    },
    yAxis: [
      {
        type: 'value',
        name: 'source',
        min: span.first,
        max: Math.max(span.first + 1, span.last),
        minInterval: 1,
        ...axis,
      },
      { type: 'value', name: 'speed %', ...axis, splitLine: { show: false } },
    ],
    tooltip: { trigger: 'axis', renderMode: 'richText' },
    series: [
      {
        type: 'line',
        name: 'source',
        showSymbol: false,
        lineStyle: { color: tokens.act, width: 2 },
        itemStyle: { color: tokens.act },
        data: points.map(({ to, from }) => [to, Math.round(from * 100) / 100]),
      },
      {
        type: 'line',
        name: 'speed %',
        yAxisIndex: 1,
        ...(bend === 'straight' ? { step: 'end' as const } : {}),
        showSymbol: false,
        lineStyle: { color: tokens.doubt, width: 1, type: 'dashed' },
        itemStyle: { color: tokens.doubt },
        data: points.map(({ to, speed }) => [to, Math.round(speed * 1000) / 10]),
      },
    ],
  };
}
